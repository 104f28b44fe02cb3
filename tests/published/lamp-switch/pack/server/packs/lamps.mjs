// Lamps that go out by themselves
const SECONDS = 90; // how long they burn, 10 to 600 seconds

export function openLamps() {
  handle("lamps.toggle", () => {
    const lock = find("lock_gate");
    lock.light(SECONDS);
  });
}
