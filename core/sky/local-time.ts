import tzLookup from '@photostructure/tz-lookup';

/** IANA name of the time zone at a place. */
export function timeZoneAt(latitudeDeg: number, longitudeDeg: number): string {
  return tzLookup(latitudeDeg, longitudeDeg);
}

const formats = new Map<string, Intl.DateTimeFormat>();

/** Kept: making one takes a thousand times as long as using it. */
function formatOf(zone: string): Intl.DateTimeFormat {
  let format = formats.get(zone);
  if (!format) {
    const number = 'numeric';
    format = new Intl.DateTimeFormat('en-GB', {
      timeZone: zone, hourCycle: 'h23', year: number, month: number, day: number, hour: number, minute: number, second: number,
    }); // prettier-ignore
    formats.set(zone, format);
  }
  return format;
}

/** Minutes that local clocks are ahead of UTC at an instant. */
export function offsetMinutes(zone: string, instant: Date): number {
  const parts = formatOf(zone).formatToParts(instant);
  const n = (type: string) => Number(parts.find((p) => p.type === type)!.value);
  const local = Date.UTC(n('year'), n('month') - 1, n('day'), n('hour'), n('minute'), n('second'));
  return Math.round((local - Math.floor(instant.getTime() / 1000) * 1000) / 60000);
}

/**
 * The instant at which clocks of a zone show a date and minute of the day. In the hour that is skipped in spring it is the
 * instant that far after the change; of the hour that comes twice in autumn it is the first.
 */
export function instantOf(date: string, minutes: number, zone: string): Date {
  const [y, m, d] = date.split('-').map(Number) as [number, number, number];
  const wall = Date.UTC(y, m - 1, d, 0, Math.round(minutes));
  const before = offsetMinutes(zone, new Date(wall - 24 * 3600_000));
  const after = offsetMinutes(zone, new Date(wall + 24 * 3600_000));
  const early = new Date(wall - before * 60000);
  if (offsetMinutes(zone, early) === before) return early;
  const late = new Date(wall - after * 60000);
  return offsetMinutes(zone, late) === after ? late : early;
}

/** "UTC+1", "UTC-3:30", "UTC". */
export function formatOffset(minutes: number): string {
  if (minutes === 0) return 'UTC';
  const a = Math.abs(minutes);
  const rest = a % 60;
  return `UTC${minutes < 0 ? '−' : '+'}${String(Math.floor(a / 60))}${rest ? `:${String(rest).padStart(2, '0')}` : ''}`;
}
