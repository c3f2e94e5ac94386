import type { ReactNode } from 'react';
import { Shell } from '@/ui/parts/Shell';
import { needMember } from '../session';

export default async function Inside({ children }: { readonly children: ReactNode }) {
  await needMember();
  return <Shell>{children}</Shell>;
}
