/** What it shows is drawn by the layout. */
export default function Page() {
  return null;
}
