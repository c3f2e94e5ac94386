import Link from 'next/link';

export default function NotFound() {
  return (
    <main style={{ padding: '18vh 24px', textAlign: 'center' }}>
      <h1>There is nothing here</h1>
      <p>The address may have been copied in part, or what stood here is gone.</p>
      <p>
        <Link href="/desk">To the Desk</Link>
      </p>
    </main>
  );
}
