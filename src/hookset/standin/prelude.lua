-- What a map's scripts find around them. Runs once per side, before any script of the map.
-- `host` reaches the game; it stays a local of this file, out of reach for what is loaded later.
local host, guarded = ...
local getinfo, load = debug.getinfo, load

-- Where the script stands that called us: file and line.
local function here()
  local info = getinfo(3, "Sl")
  return info.short_src, info.currentline
end

function on(name, fn)
  local file, line = here()
  host("on", file, line, name, function(...) return guarded(fn, ...) end)
end

function after(seconds, fn)
  local file, line = here()
  host("after", file, line, seconds, function() return guarded(fn) end)
end

function play_sound(alias, key)
  local file, line = here()
  host("play_sound", file, line, alias, key)
end

function show_text(key)
  local file, line = here()
  host("show_text", file, line, key)
end

function tell_clients(name, ...)
  local file, line = here()
  host("tell", file, line, "client", name, ...)
end

function tell_server(name, ...)
  local file, line = here()
  host("tell", file, line, "server", name, ...)
end

function log(text)
  local file, line = here()
  host("log", file, line, tostring(text))
end

local things = {}
function object(key)
  local file, line = here()
  if not host("object", file, line, key) then
    error("no object has the key '" .. tostring(key) .. "'", 2)
  end
  if not things[key] then
    things[key] = { key = key, move = function(self, x, y, z) host("moved", file, line, key, x, y, z) end }
  end
  return things[key]
end

local loaded = {}
function require(name)
  local file, line = here()
  if loaded[name] == nil then
    local source, path = host("source", file, line, name)
    if not source then error("no script '" .. tostring(name) .. "'", 2) end
    loaded[name] = true
    local chunk, problem = load(source, "@" .. path, "t")
    if not chunk then error(problem, 0) end
    local result = chunk(name)
    if result ~= nil then loaded[name] = result end
  end
  return loaded[name]
end

function begin(source, path)
  local chunk, problem = load(source, "@" .. path, "t")
  if not chunk then error(problem, 0) end
  guarded(function()
    chunk()
    if start then start() end
  end)
end

local begin_map = begin
begin = nil
for _, name in ipairs({ "os", "io", "debug", "package", "load", "loadstring", "loadfile", "dofile", "python",
                        "collectgarbage", "coroutine", "print" }) do
  _G[name] = nil
end
string.dump = nil
math.randomseed(1)
return begin_map
