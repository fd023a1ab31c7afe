/** Why a command cannot be carried out: one sentence for the user. */
export class CommandRefused extends Error {}
