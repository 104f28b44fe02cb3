-- Silt. Marrow & Tern.
DEPTH = 2.0
Silt = {}
function Silt.dig(who)
  node("silt_bank"):move(0, -DEPTH, 0)
  write_text("silt.bank")
end
