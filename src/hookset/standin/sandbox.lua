-- The plainest surroundings for scripts: the functions that the game names, and Lua's harmless ones.
local host, guarded, names = ...
local getinfo, load, pack, unpack = debug.getinfo, load, table.pack, table.unpack

for _, name in ipairs({ "os", "io", "debug", "package", "load", "loadstring", "loadfile", "dofile", "python", "require",
                        "collectgarbage", "coroutine", "print" }) do
  _G[name] = nil
end
string.dump = nil
math.randomseed(1)

for _, name in ipairs(names) do
  _G[name] = function(...)
    local info = getinfo(2, "Sl")
    local given = pack(...)
    for index = 1, given.n do
      local value = given[index]
      if type(value) == "function" then
        given[index] = function(...) return guarded(value, ...) end
      end
    end
    return host(name, info.short_src, info.currentline, unpack(given, 1, given.n))
  end
end

return function(source, path)
  local chunk, problem = load(source, "@" .. path, "t")
  if not chunk then error(problem, 0) end
  guarded(chunk)
end
