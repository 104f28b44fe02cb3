local view = {}
function view.begin()
  on("crane.moved", function() show_text("crane.moved") end)
end
return view
