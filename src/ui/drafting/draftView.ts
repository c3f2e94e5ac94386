import type { Phase } from '@/core/circulation/state';
import type { PageSize } from '@/core/page/fields';
import type { Story } from '@/core/text/story';

/** What the draft page shows of a change. */
export interface DraftView {
  readonly change: string;
  readonly circulation: string;
  readonly record: { id: string; number: string; title: string };
  readonly revision: string;
  readonly reason: string | null;
  readonly author: string;
  readonly controller: string;
  readonly phase: Phase;
  readonly submitted: number | null;
  readonly returned: { by: string; note: string | null; at: number } | null;
  readonly source: 'text' | 'file';
  readonly story: Story | null;
  readonly main: { file: string; name: string; bytes: number; pages: readonly PageSize[] } | null;
  readonly attachments: readonly { file: string; name: string; bytes: number }[];
  readonly draftRevision: number;
  readonly saved: number;
  readonly versions: readonly {
    number: number;
    source: string;
    at: number;
    by: string;
    note: string | null;
    pages: 'made' | 'waited for' | 'failed' | 'none';
    /** It goes to the controller as soon as its pages are there. */
    submits: boolean;
    file: string | null;
  }[];
}
