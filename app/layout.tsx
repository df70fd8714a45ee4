import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import '@fontsource/barlow-semi-condensed/400.css';
import '@fontsource/barlow-semi-condensed/500.css';
import '@fontsource/barlow-semi-condensed/600.css';
import '@fontsource/source-serif-4/400-italic.css';
import { English } from '@/ui/kit/controls/english';
import { StyleRegistry } from '@/ui/kit/theme/style-registry';
import { THEME_KEY } from '@/ui/kit/theme/theme-key';

export const metadata: Metadata = {
  title: 'Orvid',
  description: 'Gives each instrument and voice of a song its own clean frequency range.',
};

/** Sets the chosen theme before anything is painted; without the browser's storage none was chosen. */
const EARLY_THEME = `try{const t=localStorage.getItem('${THEME_KEY}');if(t==='day'||t==='night')document.documentElement.dataset.theme=t}catch{}`;

/** A file dropped beside what takes files would be opened by the browser, in place of the page. */
const KEEP_PAGE = `for(const type of ['dragover','drop'])addEventListener(type,(event)=>{if(event.defaultPrevented||!event.dataTransfer.types.includes('Files'))return;event.preventDefault();event.dataTransfer.dropEffect='none'})`;

export default async function Layout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? undefined;
  // A browser that translates a page puts other elements in the places of its texts, which React does not survive.
  return (
    <html lang="en" translate="no" suppressHydrationWarning>
      <head>
        <script
          nonce={nonce}
          suppressHydrationWarning
          dangerouslySetInnerHTML={{ __html: `${EARLY_THEME};${KEEP_PAGE}` }}
        />
      </head>
      <body>
        <StyleRegistry nonce={nonce}>
          <English>{children}</English>
        </StyleRegistry>
      </body>
    </html>
  );
}
