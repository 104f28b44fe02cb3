export function hangBoard(id) {
  const board = object(id);
  handle("tide.read", () => tell("tide.shown", 3));
}
