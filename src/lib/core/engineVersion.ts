/**
 * Version of what the engine computes. It is part of every key under which a result is kept; raise it when any effect, learner
 * or meter gives other values than before.
 */
export const ENGINE_VERSION = 6;
