<!-- On the timeline's edge: what pulling does, what dropping does to others, what edges snap to, how time is written. -->
<script lang="ts">
  import { Checkbox } from "carbon-components-svelte";
  import Folder from "carbon-icons-svelte/lib/Folder.svelte";
  import { DROP_RULES, type DropRule } from "$lib/core/session/drop";
  import { SNAP_KINDS, type SnapKind } from "$lib/core/session/snap";
  import type { MenuKind } from "../../state/actions/menus";
  import { useEditor } from "../../state/editor.svelte";
  import { RULE_NAMES, type PullKind } from "../../state/preferences.svelte";
  import Choice from "../../shared/Choice.svelte";
  import Disclosure from "../../shared/Disclosure.svelte";
  import TimeFields from "./TimeFields.svelte";

  const editor = useEditor();
  const { preferences } = editor;
  const RULE_HELP: Record<DropRule, string> = {
    crossfade: "Clips that come to overlap are faded into each other",
    cover: "What lies under a dropped clip is cut away",
    stayClear: "A dropped clip goes to the nearest free place",
    pushAlong: "What comes later makes room"
  };
  const rules = DROP_RULES.map((id, i) => ({
    id,
    name: RULE_NAMES[id],
    title: `${RULE_HELP[id]}. For one drop: hold ${i + 1}`
  }));
  const pulls: readonly { id: PullKind; name: string; title: string }[] = [
    { id: "clips", name: "clips", title: "Pulling moves clips; beside them it selects time (W)" },
    { id: "time", name: "time", title: "Pulling selects time, over clips as well (W)" }
  ];
  const SNAPS: Record<SnapKind, string> = {
    grid: "grid",
    clips: "edges of clips",
    sections: "edges of sections",
    playhead: "playhead",
    zero: "zero crossings (cuts and edges)"
  };

  const menus: readonly { kind: MenuKind; name: string }[] = [
    { kind: "select", name: "Select" },
    { kind: "layOut", name: "Lay out" },
    { kind: "edges", name: "Fades and joins" },
    { kind: "hear", name: "Hear" },
    { kind: "view", name: "View" }
  ];

  /** Opens a menu under its button. */
  function open(event: MouseEvent & { currentTarget: HTMLElement }, kind: MenuKind, name: string): void {
    const { left, bottom } = event.currentTarget.getBoundingClientRect();
    editor.offerAt({ x: left, y: bottom }, event.currentTarget, kind, name);
  }

  function toggle(kind: SnapKind, on: boolean): void {
    preferences.snapTo = SNAP_KINDS.filter((k) => (k === kind ? on : preferences.snapTo.includes(k)));
  }
</script>

<div class="tools" role="toolbar" aria-label="Tools of the timeline">
  <button
    class="toggle shelf"
    aria-pressed={editor.shelfOpen}
    title="Recordings and presets (S)"
    onclick={() => (editor.shelfOpen = !editor.shelfOpen)}><Folder aria-hidden="true" />Shelf</button
  >
  <span class="soft" aria-hidden="true">pull</span>
  <Choice
    label="What pulling does"
    items={pulls}
    value={preferences.pulls}
    choose={(id) => (preferences.pulls = id)}
  />
  <span class="soft" aria-hidden="true">drop</span>
  <Choice
    label="What dropping does to others"
    items={rules}
    value={preferences.rule}
    choose={(id) => (preferences.rule = id)}
  />
  <button
    class="toggle"
    aria-pressed={preferences.snapping}
    title="Edges snap to what is near (Shift S); hold Alt to suspend it"
    onclick={() => (preferences.snapping = !preferences.snapping)}>snap</button
  >
  <Disclosure label="to {preferences.snapTo.length}" name="What edges snap to">
    <div class="snaps" role="group" aria-label="What edges snap to">
      {#each SNAP_KINDS as kind (kind)}
        <Checkbox
          labelText={SNAPS[kind]}
          checked={preferences.snapTo.includes(kind)}
          on:check={({ detail }) => toggle(kind, detail)}
        />
      {/each}
    </div>
  </Disclosure>
  <span class="gap"></span>
  {#each menus as { kind, name } (kind)}
    <button class="menu" aria-haspopup="menu" onclick={(event) => open(event, kind, name)}>{name}</button>
  {/each}
  <TimeFields />
</div>

<style>
  .tools {
    display: flex;
    grid-column: 1 / -1;
    align-items: center;
    gap: 6px;
    min-width: 0;
    padding: 0 8px;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-panel);
    font-size: 12px;
  }

  .menu {
    height: 22px;
    padding: 0 8px;
    border: 0;
    background: transparent;
    color: var(--w-ink);
    font: inherit;
    white-space: nowrap;
    cursor: pointer;
  }

  .menu:hover {
    background: var(--w-sunk);
  }

  .menu:focus-visible {
    outline: 2px solid var(--w-ink);
    outline-offset: -2px;
  }

  .toggle {
    height: 22px;
    margin-left: 8px;
    padding: 0 8px;
    border: 1px solid var(--w-soft);
    background: transparent;
    color: var(--w-ink);
    font: inherit;
    cursor: pointer;
  }

  .toggle[aria-pressed="true"] {
    background: var(--w-slate);
    color: var(--w-on-accent);
    font-weight: 600;
  }

  .toggle:focus-visible {
    outline: 2px solid var(--w-ink);
    outline-offset: 1px;
  }

  .shelf {
    display: flex;
    align-items: center;
    gap: 4px;
    margin: 0 8px 0 0;
  }

  .snaps {
    padding: 8px 12px;
  }

  .gap {
    flex: 1;
  }
</style>
