import { Desk } from '@/ui/in-browser';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <Desk id={(await params).id} />;
}
