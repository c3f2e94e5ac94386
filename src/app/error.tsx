'use client';

export default function Fault({ reset }: { readonly error: Error; readonly reset: () => void }) {
  return (
    <main style={{ padding: '18vh 24px', textAlign: 'center' }} role="alert">
      <h1>This page met a fault</h1>
      <p>Nothing you did before was lost.</p>
      <button type="button" onClick={reset}>
        Try the page again
      </button>
    </main>
  );
}
