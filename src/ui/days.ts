import dayjs from 'dayjs';

/** Days as people read them: 22 Oct. */
export const shortDay = (day: string): string => dayjs(day).format('D MMM');
export const longDay = (day: string): string => dayjs(day).format('D MMM YYYY');
export const instant = (time: string): string => dayjs(time).format('D MMM, HH:mm');

/** An instant in the account's time: "Tue 03:30". */
export const instantSaid = (instant: string, timeZone: string): string =>
  new Intl.DateTimeFormat('en-GB', {
    timeZone,
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
  }).format(new Date(instant));
