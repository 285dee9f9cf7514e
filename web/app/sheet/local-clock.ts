const FORMAT = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });

/** The person's own clock at an ISO time, as 24 hours. */
export function localClock(at: string): string {
  return FORMAT.format(new Date(at));
}
