// Kinds that are drawn as lines, not as ground.
export const LINES = ["wall", "window"];
