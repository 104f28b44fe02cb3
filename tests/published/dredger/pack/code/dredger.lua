Dredger = {}
function Dredger.dig(who) node("dredger"):move(0, -1, 0) end
