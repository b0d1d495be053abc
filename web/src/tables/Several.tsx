import { Check } from "../design/Field";

interface SeveralProps {
  names: string[];
  chosen: string[];
  label: string;
  onChoose: (names: string[]) => void;
}

/** Several columns, in the order of the table. */
export function Several({ names, chosen, label, onChoose }: SeveralProps) {
  return (
    <span className="flex max-h-56 flex-wrap gap-x-4 gap-y-1 overflow-y-auto" role="group" aria-label={label}>
      {names.map((c) => (
        <Check
          key={c}
          checked={chosen.includes(c)}
          label={`${label}: ${c}`}
          onChange={(on) => onChoose(names.filter((x) => (x === c ? on : chosen.includes(x))))}
        >
          {c}
        </Check>
      ))}
    </span>
  );
}
