import { Dockets } from '@/ui/dockets/dockets';

export default function Page() {
  return <Dockets />;
}
