/** How long the browser may take to begin a download, milliseconds. */
const PATIENCE = 1000;

/** Hands a value to the browser as a JSON file. */
export const saveJson = (value: unknown, name: string): void =>
  saveBlob(new Blob([JSON.stringify(value, null, 1)], { type: 'application/json' }), name);

/** Hands bytes to the browser as a file. */
export function saveBlob(blob: Blob, name: string): void {
  const url = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), PATIENCE);
}
