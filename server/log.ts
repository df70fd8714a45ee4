import pino from 'pino';

export const log = pino({ level: process.env.ORVID_LOG ?? 'warn' });
