import nodemailer from 'nodemailer';
import type { Deliver } from '@/server/mail/send';
import { keepLetter } from './postbox';

/** Delivers straight into the Post room, with the letter's own date: for laying out the demonstration's past. */
export function postDelivery(folder: string): Deliver {
  const composer = nodemailer.createTransport({ streamTransport: true, buffer: true, newline: 'windows' });
  return async (letter) => {
    const { message } = await composer.sendMail({ ...letter, replyTo: letter.replyTo });
    await keepLetter(folder, message as Buffer);
  };
}
