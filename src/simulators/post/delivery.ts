import nodemailer from 'nodemailer';
import type { Deliver } from '@/server/mail/send';
import { keepMail } from './postbox';

/** Delivers straight into the Post room, with the message’s own date: for laying out the demonstration's past. */
export function postDelivery(folder: string): Deliver {
  const composer = nodemailer.createTransport({ streamTransport: true, buffer: true, newline: 'windows' });
  return async (mail) => {
    const { message } = await composer.sendMail({ ...mail, replyTo: mail.replyTo });
    await keepMail(folder, message as Buffer);
  };
}
