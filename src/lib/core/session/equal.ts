/** Whether two JSON values are alike: same types, same values, whatever the order of an object's fields. A field that is undefined counts as left out. */
export function alike(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  if (Array.isArray(a) && Array.isArray(b))
    return a.length === b.length && a.every((value, i) => alike(value, b[i]));
  const left = a as Record<string, unknown>;
  const right = b as Record<string, unknown>;
  for (const key of Object.keys(left)) if (!alike(left[key], right[key])) return false;
  for (const key of Object.keys(right)) if (right[key] !== undefined && left[key] === undefined) return false;
  return true;
}
