Weir = {}
function Weir.open(who)
  node("weir"):move(0, 1, 0)
  write_text("weir.name")
end
