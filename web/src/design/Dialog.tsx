import { Dialog as Primitive } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
}

export function Dialog({ open, onClose, title, children }: Props) {
  return (
    <Primitive.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Primitive.Portal>
        <Primitive.Overlay className="fixed inset-0 z-40 bg-bar/40" />
        <Primitive.Content
          aria-describedby={undefined}
          className="fixed top-[18%] left-1/2 z-50 w-[min(460px,92vw)] -translate-x-1/2 rounded-[4px] border border-ink bg-paper px-[18px] pt-4 pb-4"
        >
          <Primitive.Title className="mb-2 font-serif text-[17px] font-semibold">{title}</Primitive.Title>
          {children}
        </Primitive.Content>
      </Primitive.Portal>
    </Primitive.Root>
  );
}
