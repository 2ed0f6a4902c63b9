/** As much of JSON Schema as packs use. */
export interface Shape {
  $ref?: string;
  type?: string | string[];
  enum?: string[];
  const?: string;
  properties?: Record<string, Shape>;
  required?: string[];
  items?: Shape;
  oneOf?: Shape[];
  additionalProperties?: boolean | Shape;
  minimum?: number;
  maximum?: number;
  description?: string;
  $defs?: Record<string, Shape>;
}

export type Json = string | number | boolean | null | Json[] | { [name: string]: Json };
export type JsonObject = Record<string, Json>;

/** Follows a reference into the definitions; what stands beside it stays. */
export function resolve(shape: Shape, root: Shape): Shape {
  const name = shape.$ref?.split('/').at(-1);
  const target = name ? root.$defs?.[name] : undefined;
  if (!target) return shape;
  const beside = Object.fromEntries(Object.entries(shape).filter(([member]) => member !== '$ref'));
  return { ...resolve(target, root), ...beside };
}

/** How an entry of a kind is built. */
export const shapeOf = (kind: string, root: Shape): Shape =>
  resolve(root.properties?.[kind]?.items ?? {}, root);

/** A value to start from: what the schema requires, empty. */
export function blank(shape: Shape, root: Shape): Json {
  const full = resolve(shape, root);
  if (full.enum) return full.enum[0] ?? '';
  if (full.oneOf) return { fact: 'memory.installedMiB', atLeast: 1024 };
  switch (full.type) {
    case 'object':
      return Object.fromEntries(
        (full.required ?? []).map((name) => [name, blank(full.properties?.[name] ?? {}, root)]),
      );
    case 'array':
      return [];
    case 'integer':
      return full.minimum ?? 0;
    case 'boolean':
      return false;
    default:
      return '';
  }
}

/** The lines of two texts, told apart: a longest common subsequence, line by line. */
export function differences(before: string, after: string): { mark: ' ' | '-' | '+'; line: string }[] {
  const [a, b] = [before.split('\n'), after.split('\n')];
  const longest = Array.from({ length: a.length + 1 }, () => new Array<number>(b.length + 1).fill(0));
  const at = (i: number, j: number) => longest[i]?.[j] ?? 0;
  for (let i = a.length - 1; i >= 0; i--)
    for (let j = b.length - 1; j >= 0; j--) {
      const row = longest[i];
      if (row) row[j] = a[i] === b[j] ? at(i + 1, j + 1) + 1 : Math.max(at(i + 1, j), at(i, j + 1));
    }
  const out: { mark: ' ' | '-' | '+'; line: string }[] = [];
  let [i, j] = [0, 0];
  while (i < a.length || j < b.length) {
    const [left, right] = [a[i], b[j]];
    if (left !== undefined && left === right) {
      out.push({ mark: ' ', line: left });
      i++;
      j++;
    } else if (right !== undefined && (left === undefined || at(i, j + 1) > at(i + 1, j))) {
      out.push({ mark: '+', line: right });
      j++;
    } else {
      out.push({ mark: '-', line: left ?? '' });
      i++;
    }
  }
  return out;
}

/** Only what changed, with a line of company on either side. */
export const changedLines = (before: string, after: string) => {
  const all = differences(before, after);
  return all.filter((_, i) => all.slice(Math.max(0, i - 1), i + 2).some((l) => l.mark !== ' '));
};
