Chain = {}
function Chain.pull(who)
  node("chain"):move(0, 1, 0)
  write_text("chain.pulled")
end
