import { Suspense } from 'react';
import { JobsAtWork } from '@/ui/jobs/at-work';

export default function Page() {
  return (
    <Suspense>
      <JobsAtWork />
    </Suspense>
  );
}
