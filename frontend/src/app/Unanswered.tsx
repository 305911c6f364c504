import { notifyManager, type Query, useQueryClient } from "@tanstack/react-query";
import { useCallback, useSyncExternalStore } from "react";
import { refused } from "../api/problem";

/** Asked for by what is on the screen, and not answered; a refusal is an answer. */
function unanswered({ state: { error } }: Query): boolean {
  return error !== null && !refused(error);
}

/** That a part of what is on the screen did not come, and a way to ask for it again. */
export function Unanswered() {
  const client = useQueryClient();
  const cache = client.getQueryCache();
  const subscribe = useCallback(
    (changed: () => void) => cache.subscribe(notifyManager.batchCalls(changed)),
    [cache],
  );
  const some = useSyncExternalStore(
    subscribe,
    () => cache.findAll({ type: "active", predicate: unanswered }).length > 0,
  );
  if (!some) return null;
  return (
    <span role="status" className="over">
      Not everything came.{" "}
      <button
        type="button"
        className="plain link"
        onClick={() => client.refetchQueries({ type: "active", predicate: unanswered })}
      >
        Ask again
      </button>
    </span>
  );
}
