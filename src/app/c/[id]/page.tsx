import { Desk } from '@/ui/desk/desk';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <Desk id={(await params).id} />;
}
