import { Color } from 'three';

export type Token =
  | 'paper'
  | 'sheet'
  | 'rule'
  | 'ink'
  | 'soft'
  | 'leaf'
  | 'damson'
  | 'stops'
  | 'left'
  | 'right'
  | 'bark'
  | 'bud'
  | 'clay-dark'
  | 'clay-light'
  | 'ramp-0'
  | 'ramp-1'
  | 'ramp-2'
  | 'ramp-3'
  | 'ramp-4';

/** A colour of the house as the page's style defines it, so that stage and page never differ. */
export function token(name: Token): Color {
  const value = getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
  return new Color(value || '#888888').convertLinearToSRGB();
}

/** The same for three's own materials, which compute in linear light. */
export function linearToken(name: Token): Color {
  return token(name).convertSRGBToLinear();
}
