import { Suspense } from 'react';
import { JobsAtWork } from '@/ui/in-browser';

export default function Page() {
  return (
    <Suspense>
      <JobsAtWork />
    </Suspense>
  );
}
