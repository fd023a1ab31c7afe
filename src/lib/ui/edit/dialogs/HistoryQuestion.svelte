<!-- The next step through the history is someone else's: it is taken only when the user says so. -->
<script lang="ts">
  import { Modal } from "carbon-components-svelte";
  import { useEditor } from "../../state/editor.svelte";
  import type { Question } from "../../state/session.svelte";

  let { question }: { question: Question } = $props();
  const { session } = useEditor();
  const verb = $derived(question.direction === "undo" ? "Undo" : "Redo");
  const maker = $derived(
    question.item.job === null
      ? "was made on another page that has this project open"
      : "is the result of work that ended meanwhile"
  );
</script>

<Modal
  open
  size="xs"
  modalHeading={`${verb} "${question.item.label}"?`}
  primaryButtonText={verb}
  secondaryButtonText="Keep it"
  on:submit={() => session.answer(true)}
  on:close={() => session.answer(false)}
  on:click:button--secondary={() => session.answer(false)}
>
  <p>It {maker}. Changes are taken back in the order in which they were made, so it comes first.</p>
</Modal>
