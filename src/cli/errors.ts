/** A call that cannot be carried out as it was written: one clear line on standard error, exit 2. */
export class UsageError extends Error {}
