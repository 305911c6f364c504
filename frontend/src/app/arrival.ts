import { useEffect, useRef } from "react";
import { useLocation } from "react-router";

const FIELDS = "input, textarea, select, [contenteditable]";

/**
 * A page's heading is the window's title, whatever it comes to say. When another page is reached its
 * heading takes the focus, which is how it is announced; unless a field of the page has taken it already.
 * The first page is left as it is.
 */
export function useArrival(matId: string): void {
  const { pathname } = useLocation();
  const came = useRef<string | null>(null);
  useEffect(() => {
    const mat = document.getElementById(matId);
    if (!mat) return;
    const first = came.current === null;
    came.current = pathname;
    let arrived = first;
    const read = (): void => {
      const heading = mat.querySelector<HTMLElement>("h1");
      if (!heading?.textContent) return;
      const title = `${heading.textContent} · Hollow Pin`;
      if (document.title !== title) document.title = title;
      if (arrived) return;
      arrived = true;
      if (!document.activeElement?.matches(FIELDS)) {
        heading.tabIndex = -1;
        heading.focus({ preventScroll: true });
      }
    };
    read();
    const watcher = new MutationObserver(read);
    watcher.observe(mat, { childList: true, subtree: true, characterData: true });
    return () => watcher.disconnect();
  }, [pathname, matId]);
}
