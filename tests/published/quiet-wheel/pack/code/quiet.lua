Quiet = {}
function Quiet.turn(who)
  node("tide_gate"):move(0, 1, 0)
end
