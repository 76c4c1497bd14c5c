import type { ReactNode } from "react";

/** What may be wider than the page: it is scrolled by finger, and with the arrow keys once it has the focus. */
export function Wide({
  name,
  className,
  children,
}: {
  name: string;
  className: string;
  children: ReactNode;
}) {
  return (
    <div className={className} role="region" aria-label={name} tabIndex={0}>
      {children}
    </div>
  );
}
