import { Briefs } from '@/ui/in-browser';

export default function Layout() {
  return <Briefs />;
}
