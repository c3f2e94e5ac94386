import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { settings } from '@/server/settings';
import { PostRoom } from '@/ui/post/PostRoom';

export const metadata: Metadata = { title: 'Post room · Avenda' };

export default function Page() {
  if (settings().mode !== 'demo') notFound();
  return <PostRoom />;
}
