Sluice = {}
function Sluice.pull(who) node("sluice_board"):move(0, 1, 0) end
