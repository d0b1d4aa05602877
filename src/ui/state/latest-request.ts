/**
 * Who was asked last: every asynchronous answer carries the token of what it was asked for, and a late one is
 * dropped.
 */
export class LatestRequest {
  private last = 0;

  /** Begins to ask; the token tells whether nothing newer has been asked since, and nothing let go. */
  begin(): () => boolean {
    const mine = ++this.last;
    return () => mine === this.last;
  }

  /** Lets go of whatever is on its way. */
  drop(): void {
    this.last++;
  }
}
