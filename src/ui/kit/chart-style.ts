/** What all charts of the house look like. */

export const CHART_FONT = "'JetBrains Mono Variable', monospace";

/** A colour of the house, as the page's style defines it. */
export const colour = (name: string): string =>
  getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
