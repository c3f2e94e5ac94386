'use client';

import { useState } from 'react';

export function Rows({ rows }) {
  const [open, setOpen] = useState(null);
  return (
    <main>
      <h1>{rows.length} rows</h1>
      {rows.map(({ id, title }) => (
        <button key={id} type="button" data-row={id} onClick={() => setOpen(open === id ? null : id)}>
          {['Approve', id.slice(0, 8), title, 'Ines Halloran', 'late by 2 days', 'Fri 27 Nov 15:00'].map((text) => (
            <span key={text}>{text}</span>
          ))}
        </button>
      ))}
    </main>
  );
}
