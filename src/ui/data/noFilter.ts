import type { KeptFilter } from '@/server/desk/filters';

/** What a list of circulations is narrowed to. */
export type ListFilter = Omit<KeptFilter, 'name'>;

export const noFilter: ListFilter = { state: 'live', filter: '', holder: null, documentType: null, late: false };
