<!-- One of a handful, chosen from a list. It listens to what is chosen by hand alone: Carbon's own "update" also comes, late, when the value changes from outside. -->
<script lang="ts" generics="T extends string">
  import { Select, SelectItem } from "carbon-components-svelte";

  interface Props {
    label: string;
    items: readonly { readonly id: T; readonly name: string }[];
    value: T;
    choose: (id: T) => void;
    /** Whether the label is read aloud only. */
    bare?: boolean;
  }

  let { label, items, value, choose, bare = false }: Props = $props();

  function changed(event: Event): void {
    const { target } = event;
    if (!(target instanceof HTMLSelectElement)) return;
    const found = items.find((item) => item.id === target.value);
    if (found && found.id !== value) choose(found.id);
  }
</script>

<Select inline={bare} size="xs" hideLabel={bare} labelText={label} selected={value} on:change={changed}>
  {#each items as item (item.id)}<SelectItem value={item.id} text={item.name} />{/each}
</Select>
