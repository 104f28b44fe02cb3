export function smoke() {
  handle("smoke.puff", () => find("smoke_house").light(1))
}
