import pino from 'pino';

export const log = pino({ level: process.env.WEMBREL_LOG ?? 'warn' }, pino.destination({ fd: 2, sync: true }));
