/** A set with a member more, or without it when it had it. */
export function toggled<T>(set: ReadonlySet<T>, member: T): ReadonlySet<T> {
  const next = new Set(set);
  if (!next.delete(member)) next.add(member);
  return next;
}
