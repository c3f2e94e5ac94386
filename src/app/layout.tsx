import type { Metadata, Viewport } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/literata';
import { Letters } from '@/ui/theme/Letters';
import { modeScript } from '@/ui/theme/mode';
import { Look } from '@/ui/theme/provider';

export const metadata: Metadata = { title: 'Avenda', description: 'Drafts carried to their release' };
export const viewport: Viewport = { width: 'device-width', initialScale: 1 };

export default async function Layout({ children }: { readonly children: ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        {/* biome-ignore lint/security/noDangerouslySetInnerHtml: our own line, under the page's nonce */}
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: modeScript }} />
      </head>
      <body>
        <Look nonce={nonce}>{children}</Look>
        <Letters />
      </body>
    </html>
  );
}
