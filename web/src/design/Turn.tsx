import { Button } from "./Button";
import { n } from "./words";

/** Turns through a long list, so many at once; nothing where it is all shown. */
export function Turn({
  from,
  shown,
  total,
  onFrom,
}: {
  from: number;
  shown: number;
  total: number;
  onFrom: (from: number) => void;
}) {
  if (total <= shown) return null;
  return (
    <p className="flex items-center gap-2 pt-1.5 text-[12px] text-ink-2">
      {n(from + 1)} to {n(Math.min(from + shown, total))} of {n(total)}
      <Button kind="small" disabled={from === 0} onClick={() => onFrom(Math.max(0, from - shown))}>
        Before
      </Button>
      <Button kind="small" disabled={from + shown >= total} onClick={() => onFrom(from + shown)}>
        Next
      </Button>
    </p>
  );
}
