export const bytes = (n: number): string =>
  n < 1024 ? `${n} B` : n < 1048576 ? `${(n / 1024).toFixed(n < 10240 ? 1 : 0)} KiB` : `${(n / 1048576).toFixed(1)} MiB`;

export const time = (iso: string): string => new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });

export const round = (n: number, digits = 2): number => Math.round(n * 10 ** digits) / 10 ** digits;

export const plural = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
