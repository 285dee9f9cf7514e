/** A local date (ISO) and the minute of its day. */
export interface LocalMoment {
  date: string;
  minutes: number;
}

const DAY_MINUTES = 1440;
const isoDate = (year: number, month: number, day: number) => new Date(Date.UTC(year, month, day)).toISOString().slice(0, 10);
const partsOf = (date: string) => date.split('-').map(Number) as [number, number, number];

export function addDays(date: string, days: number): string {
  const [year, month, day] = partsOf(date);
  return isoDate(year, month - 1, day + days);
}

/** So many minutes later, or earlier, over midnight into the next day or the one before. */
export function addMinutes({ date, minutes }: LocalMoment, by: number): LocalMoment {
  const sum = minutes + by;
  const days = Math.floor(sum / DAY_MINUTES);
  return { date: addDays(date, days), minutes: sum - days * DAY_MINUTES };
}

/** The same day of another month (0 to 11) of the same year, or that month's last. */
export function inMonth(date: string, month: number): string {
  const [year, , day] = partsOf(date);
  const last = new Date(Date.UTC(year, month + 1, 0)).getUTCDate();
  return isoDate(year, month, Math.min(last, day));
}
