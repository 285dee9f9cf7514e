/** Minutes of the day as 24-hour clock time. */
export function clock(minutesOfDay: number): string {
  const m = Math.round(minutesOfDay) % 1440;
  return `${String(Math.floor(m / 60)).padStart(2, '0')}:${String(m % 60).padStart(2, '0')}`;
}
