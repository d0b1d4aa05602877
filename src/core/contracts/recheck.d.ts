/** The part of the package that runs anywhere; it has no types of its own. */
declare module 'recheck/lib/browser.js' {
  type Recheck = Pick<typeof import('recheck'), 'checkSync'>;
  export const checkSync: Recheck['checkSync'] | undefined;
  const all: Recheck | undefined;
  export default all;
}
