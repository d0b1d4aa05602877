import { Briefs } from '@/ui/briefs/briefs';

export default function Layout() {
  return <Briefs />;
}
