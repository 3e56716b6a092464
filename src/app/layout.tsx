import type { Metadata, Viewport } from 'next';
import type { ReactNode } from 'react';
import './globals.css';

export const metadata: Metadata = {
  title: 'Vine Needle',
  description: 'Takes unwanted things out of photographs by hand, so that nobody can tell.',
};

export const viewport: Viewport = { width: 'device-width', initialScale: 1, themeColor: '#f7f7f7' };

export default function RootLayout({ children }: { children: ReactNode }) {
  return (
    <html lang="en">
      <body>{children}</body>
    </html>
  );
}
