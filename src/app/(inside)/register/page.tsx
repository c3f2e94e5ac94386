import type { Metadata } from 'next';
import { RegisterList } from '@/ui/register/RegisterList';

export const metadata: Metadata = { title: 'Register · Avenda' };

export default function Page() {
  return <RegisterList />;
}
