/** Values that JSON can carry. */
export type Json = null | boolean | number | string | readonly Json[] | { readonly [key: string]: Json | undefined };

/**
 * The canonical JSON text of a value (RFC 8785): keys sorted by UTF-16 code units, numbers as ECMAScript prints
 * them, no white space. Keys whose value is undefined are left out. Throws TypeError on what JSON cannot carry
 * (NaN, infinities, lone surrogates), because such a value could not be hashed the same everywhere.
 */
export function canonical(value: Json): string {
  if (value === null || typeof value === 'boolean') return String(value);
  if (typeof value === 'number') {
    if (!Number.isFinite(value)) throw new TypeError('canonical JSON has no NaN and no infinity');
    return JSON.stringify(value);
  }
  if (typeof value === 'string') {
    if (/[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/.test(value))
      throw new TypeError('canonical JSON has no lone surrogates');
    return JSON.stringify(value);
  }
  if (Array.isArray(value)) return `[${value.map((item) => canonical(item as Json)).join(',')}]`;
  const object = value as { readonly [key: string]: Json | undefined };
  const members: string[] = [];
  for (const key of Object.keys(object).sort()) {
    const member = object[key];
    if (member !== undefined) members.push(`${canonical(key)}:${canonical(member)}`);
  }
  return `{${members.join(',')}}`;
}

/** Whether two values of plain data have the same canonical text; what is not there is alike to nothing else. */
export function alike(one: unknown, other: unknown): boolean {
  if (one === other) return true;
  if (typeof one !== 'object' || typeof other !== 'object' || one === null || other === null) return false;
  if (Array.isArray(one) || Array.isArray(other))
    return (
      Array.isArray(one) &&
      Array.isArray(other) &&
      one.length === other.length &&
      one.every((item, i) => alike(item, other[i]))
    );
  const [a, b] = [one as Readonly<Record<string, unknown>>, other as Readonly<Record<string, unknown>>];
  for (const key in a) if (!alike(a[key], b[key])) return false;
  for (const key in b) if (b[key] !== undefined && a[key] === undefined) return false;
  return true;
}
