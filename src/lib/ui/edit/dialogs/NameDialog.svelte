<!-- Asks for one name. -->
<script lang="ts">
  import { Modal, TextInput } from "carbon-components-svelte";

  interface Props {
    heading: string;
    label: string;
    button: string;
    value?: string;
    mayBeEmpty?: boolean;
    /** Returns a sentence when the name is refused. */
    submit: (name: string) => Promise<string | undefined> | string | undefined;
    close: () => void;
  }

  let { heading, label, button, value = "", mayBeEmpty = false, submit, close }: Props = $props();
  // svelte-ignore state_referenced_locally
  let name = $state(value);
  let fault = $state("");

  async function go(): Promise<void> {
    fault = name.trim() === "" && !mayBeEmpty ? "A name is needed." : ((await submit(name.trim())) ?? "");
    if (!fault) close();
  }
</script>

<Modal
  open
  size="xs"
  modalHeading={heading}
  primaryButtonText={button}
  secondaryButtonText="Cancel"
  selectorPrimaryFocus="input"
  shouldSubmitOnEnter={false}
  on:submit={go}
  on:close={close}
  on:click:button--secondary={close}
>
  <TextInput
    size="sm"
    labelText={label}
    bind:value={name}
    invalid={fault !== ""}
    invalidText={fault}
    on:keydown={(event) => {
      if (event.key === "Enter") return go();
    }}
  />
</Modal>
