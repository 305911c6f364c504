import type { Schemas } from "../api/client";

type Station = Schemas["Job"]["station"];

export const NEXT: Record<Station, string> = {
  prove: "Prove",
  work: "Decide",
  verify: "Verify",
  "hand-over": "Hand over",
  closed: "Closed",
};

export const PLACE: Record<Station, string> = {
  prove: "prove",
  work: "decide",
  verify: "verify",
  "hand-over": "hand-over",
  closed: "hand-over",
};

export const OPEN_STATIONS: readonly Station[] = ["prove", "work", "verify", "hand-over"];
