on("calm", function()
end)
