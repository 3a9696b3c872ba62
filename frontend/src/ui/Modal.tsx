import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

import { Button } from "./Button";

/** A panel over the page, in its middle; `trigger` opens it, Escape or a click beside it closes it. */
export function Modal({
  title,
  trigger,
  open,
  onOpenChange,
  className,
  closing = false,
  children,
}: {
  title: string;
  trigger: ReactNode;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  className: string;
  /** Whether a button beside the title closes it too. */
  closing?: boolean;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Trigger asChild>{trigger}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-[#0006]" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`bg-paper fixed top-1/2 left-1/2 z-50 max-w-[96vw] -translate-x-1/2 -translate-y-1/2 rounded-lg p-5 shadow-xl ${className}`}
        >
          <div className="mb-3 flex items-center justify-between">
            <Dialog.Title className="text-xl">{title}</Dialog.Title>
            {closing && (
              <Dialog.Close asChild>
                <Button>Close</Button>
              </Dialog.Close>
            )}
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
