import { Shelf } from '@/ui/shelf/shelf';

export default function Page() {
  return <Shelf />;
}
