import { useEffect, useRef } from "react";
import { useLocation } from "react-router";

const FIELDS = "input, textarea, select, [contenteditable]";

/**
 * When another page is reached its heading becomes the window's title, and takes the focus, which is how
 * it is announced; unless a field of the page has taken it already. The first page is left as it is.
 */
export function useArrival(matId: string): void {
  const { pathname } = useLocation();
  const came = useRef<string | null>(null);
  useEffect(() => {
    const mat = document.getElementById(matId);
    if (!mat) return;
    const first = came.current === null;
    came.current = pathname;
    const arrive = (): boolean => {
      const heading = mat.querySelector<HTMLElement>("h1");
      if (!heading?.textContent) return false;
      document.title = `${heading.textContent} · Hollow Pin`;
      if (!first && !document.activeElement?.matches(FIELDS)) {
        heading.tabIndex = -1;
        heading.focus({ preventScroll: true });
      }
      return true;
    };
    if (arrive()) return;
    const watcher = new MutationObserver(() => {
      if (arrive()) watcher.disconnect();
    });
    watcher.observe(mat, { childList: true, subtree: true });
    return () => watcher.disconnect();
  }, [pathname, matId]);
}
