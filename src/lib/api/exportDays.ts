/** An export is kept this many days. */
export const EXPORT_DAYS = 7;
