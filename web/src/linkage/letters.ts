/** A stretch of a text, and whether the other text lacks it. */
export interface Stretch {
  text: string;
  differs: boolean;
}

const longest = 300;

/** Marks in each of two texts the letters that the other does not have in that order (their longest common subsequence, letter case apart). */
export function differing(a: string, b: string): [Stretch[], Stretch[]] {
  const x = [...a].slice(0, longest);
  const y = [...b].slice(0, longest);
  const same = (i: number, j: number) => x[i]!.toLowerCase() === y[j]!.toLowerCase();
  const table = Array.from({ length: x.length + 1 }, () => new Uint16Array(y.length + 1));
  for (let i = x.length - 1; i >= 0; i--)
    for (let j = y.length - 1; j >= 0; j--)
      table[i]![j] = same(i, j) ? table[i + 1]![j + 1]! + 1 : Math.max(table[i + 1]![j]!, table[i]![j + 1]!);
  const left: Stretch[] = [];
  const right: Stretch[] = [];
  const add = (to: Stretch[], text: string, differs: boolean) => {
    const last = to.at(-1);
    if (last?.differs === differs) last.text += text;
    else to.push({ text, differs });
  };
  let i = 0;
  let j = 0;
  while (i < x.length || j < y.length) {
    if (i < x.length && j < y.length && same(i, j)) {
      add(left, x[i++]!, false);
      add(right, y[j++]!, false);
    } else if (j >= y.length || (i < x.length && table[i + 1]![j]! >= table[i]![j + 1]!)) add(left, x[i++]!, true);
    else add(right, y[j++]!, true);
  }
  if (a.length > x.join("").length) add(left, a.slice(x.join("").length), false);
  if (b.length > y.join("").length) add(right, b.slice(y.join("").length), false);
  return [left, right];
}
