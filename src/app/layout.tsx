import type { Metadata, Viewport } from 'next';
import type { ReactNode } from 'react';
import './globals.css';

export const metadata: Metadata = {
  title: 'Young Bough',
  description: 'Audit, fix, remap, prove and hand over rigged characters',
  icons: { icon: '/bough.svg' },
};
export const viewport: Viewport = { width: 'device-width', initialScale: 1 };

const night = `try{if(localStorage.getItem('sheet')==='night')document.documentElement.dataset.sheet='night'}catch{}`;

export default function Layout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <script dangerouslySetInnerHTML={{ __html: night }} />
      </head>
      <body>{children}</body>
    </html>
  );
}
