/**
 * Does something in a task of its own, after the next picture. What makes the browser lay out the page at
 * once (moving the focus, reading sizes) costs nothing there, since the picture has just been laid out; in
 * the middle of a change it holds the page.
 * @returns what calls it off
 */
export function afterPicture(act: () => void): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const frame = requestAnimationFrame(() => {
    timer = setTimeout(act);
  });
  return () => {
    cancelAnimationFrame(frame);
    clearTimeout(timer);
  };
}
