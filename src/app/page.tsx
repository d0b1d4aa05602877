import { Shelf } from '@/ui/in-browser';

export default function Page() {
  return <Shelf />;
}
