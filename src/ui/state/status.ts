/** What goes on. */
export interface StatusSlice {
  /** How far the opening of a large character has come. */
  arriving: { share: number; cancel: AbortController } | null;
  /** How far an audit has come, where one had to be made. */
  auditing: { share: number; stage: string; cancel: AbortController } | null;
  busy: string | null;
  error: string | null;
  said: string | null;
  /** A newer revision than the one on the desk, made in another window; null where there is none. */
  elsewhere: { readonly number: number } | null;
  /** The ledger, the bones, or a table of the room. */
  drawer: string | null;
  dialog: 'palette' | 'keys' | 'waive' | 'briefs' | null;
}

export const quiet = (): StatusSlice => ({
  arriving: null,
  auditing: null,
  busy: null,
  error: null,
  said: null,
  elsewhere: null,
  drawer: null,
  dialog: null,
});
