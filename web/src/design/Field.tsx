import { Select as Primitive } from "radix-ui";
import type { ComponentProps, ReactNode } from "react";

const box = "h-7 rounded-[3px] border border-rule bg-paper px-2 text-ink placeholder:text-ink-3 hover:border-ink-3";

export function Input({ className = "", ...rest }: ComponentProps<"input">) {
  return <input className={`${box} ${className}`} autoComplete="off" spellCheck={false} {...rest} />;
}

export function Labelled({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="flex flex-col gap-0.5">
      <span className="text-[11.5px] text-ink-2">{label}</span>
      {children}
    </label>
  );
}

interface SelectProps {
  label: string;
  value: string;
  options: { value: string; name: string }[];
  onChange: (value: string) => void;
  className?: string;
}

/** Radix cannot have an option without a value; the empty one goes by this name inside. */
const none = "\u0000none";

export function Select({ label, value, options, onChange, className = "" }: SelectProps) {
  return (
    <Primitive.Root value={value === "" ? none : value} onValueChange={(v) => onChange(v === none ? "" : v)}>
      <Primitive.Trigger
        aria-label={label}
        className={`${box} inline-flex min-w-0 items-center justify-between gap-2 ${className}`}
      >
        <span className="truncate">
          <Primitive.Value />
        </span>
        <Primitive.Icon className="text-[9px] text-ink-3">▼</Primitive.Icon>
      </Primitive.Trigger>
      <Primitive.Portal>
        <Primitive.Content
          position="popper"
          sideOffset={2}
          className="z-50 max-h-80 min-w-(--radix-select-trigger-width) overflow-hidden rounded-[3px] border border-ink bg-paper"
        >
          <Primitive.Viewport>
            {options.map((o) => (
              <Primitive.Item
                key={o.value}
                value={o.value === "" ? none : o.value}
                className="max-w-[360px] truncate px-2 py-1 outline-none data-[highlighted]:bg-pencil-bg data-[state=checked]:font-semibold"
              >
                <Primitive.ItemText>{o.name}</Primitive.ItemText>
              </Primitive.Item>
            ))}
          </Primitive.Viewport>
        </Primitive.Content>
      </Primitive.Portal>
    </Primitive.Root>
  );
}

interface CheckProps {
  checked: boolean;
  onChange: (checked: boolean) => void;
  children?: ReactNode;
  label?: string;
  disabled?: boolean;
}

export function Check({ checked, onChange, children, label, disabled }: CheckProps) {
  return (
    <label className="inline-flex items-center gap-1.5">
      <input
        type="checkbox"
        aria-label={label}
        className="size-[14px] accent-(--green)"
        checked={checked}
        disabled={disabled}
        onChange={(e) => onChange(e.target.checked)}
      />
      {children}
    </label>
  );
}

interface SegmentsProps<T extends string> {
  label: string;
  value: T;
  options: { value: T; name: string }[];
  onChange: (value: T) => void;
  /** Everything up to the chosen one is filled in: a ladder and not a choice of one. */
  upTo?: boolean;
}

/** A row of joined choices. */
export function Segments<T extends string>({ label, value, options, onChange, upTo }: SegmentsProps<T>) {
  const chosen = options.findIndex((o) => o.value === value);
  return (
    <div
      role="radiogroup"
      aria-label={label}
      className="inline-flex max-w-full flex-wrap self-start overflow-hidden rounded-[3px] border border-ink text-[12px]"
    >
      {options.map((o, i) => {
        const on = upTo ? i <= chosen : i === chosen;
        return (
          <button
            key={o.value}
            type="button"
            role="radio"
            aria-checked={i === chosen}
            onClick={() => onChange(o.value)}
            className={`border-l border-rule px-2 py-[3px] whitespace-nowrap first:border-l-0 ${on ? "bg-ink text-paper" : "bg-paper text-ink hover:bg-paper-2"}`}
          >
            {o.name}
          </button>
        );
      })}
    </div>
  );
}
