import { redirect } from 'next/navigation';

export default function Start(): never {
  redirect('/desk');
}
