// Le kiosque
export function openKiosk() {
  handle("kiosk.ring", () => find("kiosk").light(3));
}
