<!-- What is taken off all that is on the bench, each part ticked or not. -->
<script lang="ts">
  import { Checkbox, Modal } from "carbon-components-svelte";
  import { SvelteSet } from "svelte/reactivity";
  import { useEditor } from "../../state/editor.svelte";
  import { rowText, takeOff } from "../../state/treatments";

  const editor = useEditor();
  const { selection, session } = editor;
  // As they were when the dialog opened.
  const rows = selection.rows;
  const clips = selection.subject.owners.flatMap(({ table, id }) =>
    table === "clips" ? (session.document.get("clips", id) ?? []) : []
  );
  const parts = [
    { id: "gain", text: "Gain", has: clips.some((clip) => clip.gainDb !== 0) },
    { id: "fades", text: "Fades", has: clips.some((c) => c.fadeIn.length > 0 || c.fadeOut.length > 0) },
    { id: "line", text: "Gain line", has: clips.some((clip) => Boolean(clip.line)) }
  ] as const;
  const chosen = new SvelteSet(rows.map(({ step }) => step.id));
  const ticked = $state({ gain: false, fades: false, line: false });
  const nothing = $derived(chosen.size === 0 && !parts.some(({ id }) => ticked[id]));
  const bare = rows.length === 0 && !parts.some(({ has }) => has);
  const close = () => (editor.dialog = null);

  function tick(id: string, on: boolean): void {
    if (on) chosen.add(id);
    else chosen.delete(id);
  }

  function go(): void {
    if (nothing) return;
    takeOff(
      editor,
      rows.filter(({ step }) => chosen.has(step.id)),
      ticked
    );
    close();
  }
</script>

<Modal
  open
  size="sm"
  modalHeading="Take treatment off {selection.title}"
  primaryButtonText="Take off"
  primaryButtonDisabled={nothing}
  secondaryButtonText="Cancel"
  on:submit={go}
  on:close={close}
  on:click:button--secondary={close}
>
  {#if bare}<p>There is nothing to take off.</p>{/if}
  {#each rows as row, i (row.step.id)}
    <Checkbox
      labelText="{i + 1} {rowText(row)}"
      checked={chosen.has(row.step.id)}
      on:check={({ detail }) => tick(row.step.id, detail)}
    />
  {/each}
  {#each parts as { id, text, has } (id)}
    {#if has}<Checkbox labelText={text} bind:checked={ticked[id]} />{/if}
  {/each}
</Modal>
