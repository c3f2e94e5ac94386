'use client';

import { verbFacts } from '@/core/route/verbs';
import type { CirculationView } from '@/server/circulation/view';
import type { SeatView } from '@/server/signing/view';
import { useRouter } from '../data/ahead';
import { Answered } from '../parts/Answered';
import { Reading } from './Reading';
import { SigningPage } from './SigningPage';

/** Reading a version, with everything that belongs to it, and deciding on it where one is asked. */
export function ActPage({ circulation, seat }: { readonly circulation: string; readonly seat: string | null }) {
  return (
    <Answered name="circulation.view" input={{ circulation }}>
      {(view) => <Acting view={view} seat={seat} />}
    </Answered>
  );
}

function Acting({ view, seat }: { readonly view: CirculationView; readonly seat: string | null }) {
  const own = view.seats.find((candidate) => candidate.id === seat);
  if (!own?.mine || !verbFacts[own.verb].signs) return <Reading view={view} seat={seat} />;
  // Asked or done: the same page signs and is the receipt afterwards.
  return (
    <Answered name="seat.mine" input={{ circulation: view.id, seat: own.id }}>
      {(data) => <MemberSigns circulation={view.id} data={data} />}
    </Answered>
  );
}

function MemberSigns({ circulation, data }: { readonly circulation: string; readonly data: SeatView }) {
  const router = useRouter();
  return (
    <SigningPage
      view={data}
      base=""
      fileUrl={(hash) => `/file/circulation/${circulation}/${hash}`}
      onLeave={() => router.push('/desk')}
    />
  );
}
