// Sections: the one that a menu was opened on, else the one in which the playhead stands.
import { sectionOf } from "../target";
import type { Action } from "./action";

export const sections: readonly Action[] = [
  {
    id: "section",
    name: "Name the range as a section…",
    enabled: (e) => e.selection.range !== null,
    run: (e) => (e.dialog = "section")
  },
  {
    id: "sectionRange",
    name: "Range over the section",
    enabled: (e) => sectionOf(e) !== undefined,
    run: (e) => {
      const section = sectionOf(e);
      if (!section) return;
      e.selection.range = { from: section.start, to: section.start + section.length };
      e.transport.locate(section.start);
    }
  },
  {
    id: "zoomSection",
    name: "Zoom to the section",
    enabled: (e) => sectionOf(e) !== undefined,
    run: (e) => {
      const section = sectionOf(e);
      if (section) e.view.show(section.start, section.start + section.length);
    }
  },
  {
    id: "sectionRemove",
    name: "Remove the section",
    enabled: (e) => sectionOf(e) !== undefined,
    run: (e) => {
      const section = sectionOf(e);
      if (section) e.session.run({ type: "section.remove", sectionId: section.id });
    }
  }
];
