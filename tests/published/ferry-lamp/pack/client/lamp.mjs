export function lamp() {
  play("lamp_hum");
  say("ferry.lamp");
}
