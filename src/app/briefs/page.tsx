import { Briefs } from '@/ui/briefs/briefs';

export default function Page() {
  return <Briefs id={null} />;
}
