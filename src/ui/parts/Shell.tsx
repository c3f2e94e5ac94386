'use client';

import { QueryClientProvider, useQueryClient } from '@tanstack/react-query';
import { usePathname, useRouter } from 'next/navigation';
import { type ReactNode, useEffect, useState } from 'react';
import { followLinks } from '../data/ahead';
import { followChanges } from '../data/changes';
import type { Handed } from '../data/firsts';
import { clientWith } from '../data/handed';
import { comeAlive } from '../data/press';
import { useSaid } from '../data/said';
import { useMe } from '../data/use';
import { look } from '../theme/look';
import { ink } from '../theme/system';
import { FindBox } from './FindBox';
import { Link } from './Link';
import { PersonMenu } from './PersonMenu';
import { places } from './places';
import { Shortcuts } from './Shortcuts';
import { partWords as words } from './words';

/** What every page of a signed-in member stands in: data, hints, the top bar, and the page's own full height. */
export function Shell({ handed, children }: { readonly handed: Handed; readonly children: ReactNode }) {
  const [client] = useState(() => clientWith(handed));
  return (
    <QueryClientProvider client={client}>
      <Hints since={handed.at} />
      <div className={look('frame')}>
        <TopBar />
        <main id="page" tabIndex={-1} className={look('page')}>
          {children}
        </main>
      </div>
    </QueryClientProvider>
  );
}

function Hints({ since }: { readonly since: number }) {
  const client = useQueryClient();
  const { prefetch } = useRouter();
  useEffect(() => followChanges(client, since), [client, since]);
  useEffect(() => followLinks(client, prefetch), [client, prefetch]);
  useEffect(comeAlive, []);
  return null;
}

export function Mark() {
  return (
    <svg width={32} height={22} viewBox="0 0 32 22" aria-hidden>
      <path d="M1 3Q16 11 31 3" fill="none" stroke={ink('pine')} strokeWidth={2} strokeLinecap="round" />
      <path d="M16 7V12" stroke={ink('pine')} strokeWidth={1.8} />
      <rect x={9.5} y={12} width={13} height={8.5} rx={3} fill={ink('pine')} />
    </svg>
  );
}

/**
 * One quiet line in the free part of the top bar: what the last act did, and who has it now. It goes by itself. A demonstration
 * whose past is still being told says so there.
 */
function Said() {
  const { text, n } = useSaid();
  const [gone, setGone] = useState(0);
  useEffect(() => {
    const timer = setTimeout(() => setGone(n), 14_000);
    return () => clearTimeout(timer);
  }, [n]);
  const layingOut = useMe().data?.layingOut ?? null;
  const shown = n > gone ? text : layingOut === null ? '' : words.layingOut(layingOut);
  return (
    <div role="status" className={look('said')}>
      {shown}
    </div>
  );
}

function TopBar() {
  const path = usePathname();
  return (
    <>
      <a href="#page" className={look('skip')}>
        {words.skip}
      </a>
      <header className={look('topBar')}>
        <Link href="/desk" aria-label="Avenda" className={look('house')}>
          <Mark />
          <span className={look('houseName')}>Avenda</span>
        </Link>
        <nav className={look('places')}>
          {places.map(([href, name]) => (
            <Link
              key={href}
              href={href}
              className={look('place')}
              aria-current={path.startsWith(href) ? 'page' : undefined}
            >
              {name}
            </Link>
          ))}
        </nav>
        <Said />
        <FindBox />
        <PersonMenu />
      </header>
      <Shortcuts />
    </>
  );
}
