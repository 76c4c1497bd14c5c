/** When the last write was acknowledged. */
let at: Date | null = null;
const listeners = new Set<() => void>();

export function noteSaved(): void {
  at = new Date();
  listeners.forEach((listener) => listener());
}

export const saved = {
  subscribe(listener: () => void): () => void {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
  at: (): Date | null => at,
};
