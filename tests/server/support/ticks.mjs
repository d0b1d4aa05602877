/** A thread that puts something off until the next tick, and tells how often it came to that. */
let ticks = 0;

export default function tick() {
  const before = ticks;
  process.nextTick(() => ticks++);
  return before;
}
