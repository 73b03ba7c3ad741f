import dayjs from 'dayjs';

/** Days as people read them: 22 Oct. */
export const shortDay = (day: string): string => dayjs(day).format('D MMM');
export const longDay = (day: string): string => dayjs(day).format('D MMM YYYY');
export const instant = (time: string): string => dayjs(time).format('D MMM, HH:mm');
