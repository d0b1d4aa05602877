import type { Metadata, Viewport } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import './globals.css';

export const metadata: Metadata = {
  title: 'Young Bough',
  description: 'Audit, fix, remap, prove and hand over rigged characters',
  icons: { icon: '/bough.svg' },
};
export const viewport: Viewport = { width: 'device-width', initialScale: 1 };

const night = `try{if(localStorage.getItem('sheet')==='night')document.documentElement.dataset.sheet='night'}catch{}`;

export default async function Layout({ children }: { children: ReactNode }) {
  // What our own scripts must carry for the browser to run them.
  const policy = (await headers()).get('content-security-policy') ?? '';
  const nonce = /'nonce-([^']+)'/.exec(policy)?.[1];
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <script nonce={nonce} dangerouslySetInnerHTML={{ __html: night }} suppressHydrationWarning />
      </head>
      <body>{children}</body>
    </html>
  );
}
