/** A failure to show to a person: one sentence, and the status that goes with it. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status = 422,
    readonly body: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

/** What is told of work that was broken off before it changed anything. */
export const cancelled = () => new Refused('The work was cancelled; nothing was changed.', 499);
