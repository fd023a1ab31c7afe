// The project as a whole, and finding things.
import { programmeEnd } from "$lib/core/session/lookup";
import type { Action } from "./action";
import { always } from "./when";

export const project: readonly Action[] = [
  {
    id: "export",
    name: "Export the mix…",
    keys: "e",
    enabled: (e) => programmeEnd(e.session.document) > 0,
    run: (e) => (e.dialog = "export")
  },
  {
    id: "shortcuts",
    name: "Show all keys",
    keys: "Shift+?",
    anywhere: true,
    enabled: always,
    run: (e) => (e.dialog = "shortcuts")
  },
  {
    id: "actions",
    name: "Find an action",
    keys: "$mod+k",
    anywhere: true,
    enabled: always,
    run: (e) => (e.dialog = "actions")
  }
];
