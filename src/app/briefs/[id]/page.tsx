import { Briefs } from '@/ui/briefs/briefs';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <Briefs id={(await params).id} />;
}
