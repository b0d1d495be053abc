import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Schemas } from "../api/client";

interface Props {
  lines: string[];
  layout: Schemas["FixedLayout"];
  onChange: (layout: Schemas["FixedLayout"]) => void;
}

/** The first lines of a text with the places where they are cut. A cut is dragged, or moved with the arrow keys; a click
 * on the ruler makes one, Delete takes it away. */
export function Cuts({ lines, layout, onChange }: Props) {
  const ruler = useRef<HTMLDivElement>(null);
  const [dragged, setDragged] = useState<{ from: number; to: number } | null>(null);
  const width = Math.max(10, ...lines.map((l) => [...l].length)) + 4;
  const place = (e: { clientX: number }) => {
    const box = ruler.current?.getBoundingClientRect();
    return box ? Math.min(width - 1, Math.max(1, Math.round(((e.clientX - box.left) / box.width) * width))) : 1;
  };
  const put = (cuts: number[]) =>
    onChange({ ...layout, cuts: [...new Set(cuts)].filter((c) => c > 0 && c < width).toSorted((a, b) => a - b) });
  const move = (from: number, to: number) => put(layout.cuts.map((c) => (c === from ? to : c)));
  const key = (e: KeyboardEvent, cut: number) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (by) move(cut, cut + by);
    else if (e.key === "Delete" || e.key === "Backspace") put(layout.cuts.filter((c) => c !== cut));
    else return;
    e.preventDefault();
  };
  const shown = layout.cuts.map((c) => (dragged?.from === c ? dragged.to : c));
  const drop = (e: PointerEvent) => {
    if (!dragged) return;
    e.currentTarget.releasePointerCapture(e.pointerId);
    move(dragged.from, dragged.to);
    setDragged(null);
  };
  return (
    <div
      className="mb-3 max-h-[38%] shrink-0 overflow-auto border-b border-rule pb-1 font-mono text-[12px] leading-[19px]"
      data-cuts
    >
      <div className="relative w-max" style={{ minWidth: `${width}ch` }}>
        <div
          ref={ruler}
          className="h-4 cursor-copy border-b border-ink-3 bg-paper-2"
          style={{ width: `${width}ch` }}
          title="Click to cut here"
          onClick={(e) => put([...layout.cuts, place(e)])}
        />
        {lines.map((line, i) => (
          <pre key={i} className={`font-mono ${i < (layout.above ?? 0) ? "text-ink-3" : ""}`}>
            {line || " "}
          </pre>
        ))}
        {shown.map((cut, i) => (
          <button
            key={i}
            type="button"
            aria-label={`Cut behind ${cut} characters`}
            className="absolute inset-y-0 w-[7px] -translate-x-[3px] cursor-ew-resize border-l border-red pl-[6px] focus-visible:outline-2"
            style={{ left: `${cut}ch` }}
            onKeyDown={(e) => key(e, layout.cuts[i] ?? cut)}
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              setDragged({ from: layout.cuts[i] ?? cut, to: cut });
            }}
            onPointerMove={(e) => dragged && setDragged({ ...dragged, to: place(e) })}
            onPointerUp={drop}
          />
        ))}
      </div>
    </div>
  );
}
