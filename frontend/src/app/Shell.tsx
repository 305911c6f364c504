import { useQuery } from "@tanstack/react-query";
import { Suspense, useState } from "react";
import { Outlet, useNavigate } from "react-router";
import { lasting } from "../api/problem";
import { catalogueQuery } from "../api/queries";
import { Tray } from "../bench/Tray";
import { useArrival } from "./arrival";
import { KeyHelp } from "./KeyHelp";
import { useKeys } from "./keys";
import { isMuted, setMuted } from "./liveSource";
import { Loading, NotShown } from "./parts";
import { Rail } from "./Rail";

/** The page that is reached, once there are the words for what it says. */
function Mat() {
  const { data: words, error } = lasting(useQuery(catalogueQuery));
  if (error) return <NotShown title="The bench cannot be shown." error={error} />;
  if (!words) return <Loading what="the bench" />;
  return (
    <Suspense fallback={<Loading what="the mat" />}>
      <Outlet />
    </Suspense>
  );
}

/** Tray, mat, ledger (inside a job's mat) and rail. */
export function Shell() {
  const navigate = useNavigate();
  const [help, setHelp] = useState(false);
  useArrival("mat");
  useKeys([
    { key: "n", shown: "N", does: "new job", run: () => navigate("/new") },
    { key: "m", shown: "M", does: "mute", run: () => setMuted(!isMuted()) },
    { key: "shift+slash", shown: "?", does: "all keys", run: () => setHelp(true) },
  ]);
  return (
    <div className="house">
      <a className="skip" href="#mat">
        To the mat
      </a>
      <Tray />
      <main id="mat" className="mat" tabIndex={-1}>
        <Mat />
      </main>
      <Rail />
      <KeyHelp open={help} onClose={() => setHelp(false)} />
    </div>
  );
}
