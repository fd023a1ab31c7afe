// Sections: the one that a menu was opened on, else the one in which the playhead stands.
import { sectionOf } from "../target";
import { exportSections, importSections } from "../sectionFiles";
import type { Action } from "./action";
import { always, withTargets } from "./when";

export const sections: readonly Action[] = [
  {
    id: "section",
    name: "Name the range as a section…",
    // Of clips alone it is the time that they take.
    enabled: (e) => e.selection.range !== null || withTargets(e),
    run: (e) => (e.dialog = "section")
  },
  {
    id: "sectionRange",
    name: "Range over the section",
    enabled: (e) => sectionOf(e) !== undefined,
    run: (e) => {
      const section = sectionOf(e);
      if (!section) return;
      e.selection.chooseSection(section.id);
      e.goTo(section.start);
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
    id: "sectionName",
    name: "Rename the section…",
    enabled: (e) => sectionOf(e) !== undefined,
    run: (e) => e.askSection(sectionOf(e), "sectionName")
  },
  {
    id: "sectionsFile",
    name: "Add sections from a file (CSV, or cue points of a WAV)…",
    enabled: always,
    run: importSections
  },
  {
    id: "sectionsCsv",
    name: "Save the sections as CSV",
    enabled: (e) => e.session.shown.size("sections") > 0,
    run: exportSections
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
