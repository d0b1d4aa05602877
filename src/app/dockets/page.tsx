import { Dockets } from '@/ui/in-browser';

export default function Page() {
  return <Dockets />;
}
