import type { Metadata } from 'next';
import { OrganizationPage } from '@/ui/organization/OrganizationPage';

export const metadata: Metadata = { title: 'Organization · Avenda' };

export default function Page() {
  return <OrganizationPage />;
}
