'use client';

import dynamic from 'next/dynamic';

/*
 * The pages, which live in the browser alone: all that they show is fetched by them, and nothing of the stage can be drawn on
 * a server. Made for the server as well, they took a quarter of the time that building takes, and gave an empty sheet.
 */

function Opening() {
  return (
    <p role="status" className="p-6 text-soft">
      Opening …
    </p>
  );
}

// Written out at each: options that stand elsewhere are not read when the page is built.
export const Desk = dynamic(() => import('./desk/desk').then((module) => module.Desk), {
  ssr: false,
  loading: Opening,
});
export const Shelf = dynamic(() => import('./shelf/shelf').then((module) => module.Shelf), {
  ssr: false,
  loading: Opening,
});
export const Briefs = dynamic(() => import('./briefs/briefs').then((module) => module.Briefs), {
  ssr: false,
  loading: Opening,
});
export const Dockets = dynamic(() => import('./dockets/dockets').then((module) => module.Dockets), {
  ssr: false,
  loading: Opening,
});
export const JobsAtWork = dynamic(() => import('./jobs/at-work').then((module) => module.JobsAtWork), {
  ssr: false,
  loading: Opening,
});
