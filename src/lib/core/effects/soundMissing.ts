/** A recording that an effect needs is not at hand: a whole sentence. */
export class SoundMissing extends Error {}
