/** The media type of a picture that glTF 2.0 can carry (PNG, JPEG), by its file name; empty for any other. */
export function mimeTypeOf(fileName: string): 'image/png' | 'image/jpeg' | '' {
  if (/\.png$/i.test(fileName)) return 'image/png';
  return /\.jpe?g$/i.test(fileName) ? 'image/jpeg' : '';
}
