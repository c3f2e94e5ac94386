import type { ReactNode } from 'react';
import { Shell } from '@/ui/parts/Shell';
import { needMember } from '../session';

// No page in here is a suspended part of its own: one that came alive after the shell would find answers that its HTML was
// made without.
export default async function Inside({ children }: { readonly children: ReactNode }) {
  await needMember();
  return <Shell>{children}</Shell>;
}
