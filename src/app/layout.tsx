import type { Metadata, Viewport } from 'next';
import { cookies, headers } from 'next/headers';
import type { ReactNode } from 'react';
import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/literata';
import '../../.build/look.css';
import { pressScript } from '@/ui/data/press';
import { Letters } from '@/ui/theme/Letters';
import { chosenMode, modeCookie, modeScript } from '@/ui/theme/mode';
import { Look } from '@/ui/theme/provider';

export const metadata: Metadata = { title: 'Avenda', description: 'Drafts carried to their release' };
export const viewport: Viewport = { width: 'device-width', initialScale: 1 };

export default async function Layout({ children }: { readonly children: ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? undefined;
  const mode = chosenMode((await cookies()).get(modeCookie)?.value);
  return (
    <html lang="en" suppressHydrationWarning {...(mode ? { className: mode, style: { colorScheme: mode } } : {})}>
      <head>
        <script
          nonce={nonce}
          suppressHydrationWarning
          // biome-ignore lint/security/noDangerouslySetInnerHtml: our own lines, under the page's nonce
          dangerouslySetInnerHTML={{ __html: mode === null ? `${modeScript};${pressScript}` : pressScript }}
        />
      </head>
      <body>
        <Look nonce={nonce}>{children}</Look>
        <Letters />
      </body>
    </html>
  );
}
