import pino from "pino";

export const log = pino({ level: process.env.WRING_LOG ?? "info", base: null });
