local words = {}
function words.begin()
  on("harbour.rung", function() show_text("hour.struck") end)
end
return words
