-- la sirène
Siren = {}
function Siren.wail()
  write_text("gate.siren")
end
