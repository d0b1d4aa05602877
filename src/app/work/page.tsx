import { Suspense } from 'react';
import { AtWork } from '@/ui/jobs/at-work';

export default function Page() {
  return (
    <Suspense>
      <AtWork />
    </Suspense>
  );
}
