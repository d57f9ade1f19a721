/**
 * What is run before any game script: it gives scripts their functions, takes away what reaches the machine, and
 * counts what they do.
 *
 * - Everything that the prelude needs is a local of its own: a script may replace `tostring` or `type`, and harms
 *   only itself.
 * - A hook counts instructions in the main thread and in every coroutine. Once the budget of a step is spent, each
 *   further hook raises again, and `pcall`, `xpcall` and `coroutine.resume` hand that on instead of catching it.
 * - Finalisers run with hooks off, so tables cannot have any.
 * - C functions that may run long without an instruction being counted say where they are before they begin, so that
 *   whoever ends them from outside can name the line. That is the only bound that holds for them.
 *
 * - Watched expressions and log points see the run through copies that only read: tables behind proxies that take no writes, functions of
 *   scripts as copies whose variables are their own, and of the game's functions those alone that change nothing.
 *
 * It is called with the host's functions and the limits, and returns the entries of `ScriptRuntime`.
 */
/** The name under which Lua has the prelude. */
export const CHUNK = 'game';

export const PRELUDE = `
local host, budget, most_deep, most_text = ...
local sethook, getinfo, getlocal, getupvalue, setupvalue, clock = debug.sethook, debug.getinfo, debug.getlocal, debug.getupvalue, debug.setupvalue, os.clock
local dump, getmetatable, rawequal, rawlen, upvalueid, upvaluejoin = string.dump, getmetatable, rawequal, rawlen, debug.upvalueid, debug.upvaluejoin
local pcall, xpcall, error, type, select = pcall, xpcall, error, type, select
local tostring, tonumber, rawget, rawset, next, setmetatable, load = tostring, tonumber, rawget, rawset, next, setmetatable, load
local pack, concat, sort, move = table.pack, table.concat, table.sort, table.move
local co_create, co_resume, co_close = coroutine.create, coroutine.resume, coroutine.close
local find, match, gmatch, gsub, rep, sub, format = string.find, string.match, string.gmatch, string.gsub, string.rep, string.sub, string.format
local globals = _G
local HOOK_EVERY = 5000
local used, told, depth, stopped = 0, 0, 0, false
local pending, next_id = {}, 0

-- Where the script is that called a function of this prelude, or that the hook interrupted: frames of ours, of C and of
-- tail calls lie between.
local function place()
  for level = 2, 12 do
    local info = getinfo(level, "Sln")
    if not info then return nil end
    if find(info.source, "^@") then return sub(info.source, 2), info.currentline, info.name or "" end
  end
end
local function tell()
  local file, line, name = place()
  if file then host.at(file, line, name) end
end

local function stop()
  stopped = true
  local file, line = place()
  local at = file and (file .. ":" .. line .. ": ") or ""
  error(at .. "stopped: the call took too long (an endless loop?)", 0)
end

-- What is measured while somebody wants to know: how often each line and function ran, and log points at lines.
local mask, measuring = "", false
local lines, calls, running, points = {}, {}, {}, {}
local logging = false
-- Where a function is written, asked for once: this runs at every line.
local sources = setmetatable({}, { __mode = "k" })
local function source_of(fn)
  local source = sources[fn]
  if source == nil then
    source = getinfo(fn, "S").source
    if not find(source, "^@") then source = false end
    sources[fn] = source
  end
  return source
end
local function at_line(line)
  local source = source_of(getinfo(3, "f").func)
  if not source then return end
  if measuring then
    local own_lines = lines[source]
    if not own_lines then own_lines = {} lines[source] = own_lines end
    own_lines[line] = (own_lines[line] or 0) + 1
  end
  local wanted = points[source] and points[source][line]
  if wanted and not logging then wanted() end
end
local function at_call(event)
  local info = getinfo(3, "S")
  if info.what ~= "Lua" or not find(info.source, "^@") then return end
  local key = info.source .. ":" .. info.linedefined
  local own_calls = calls[key]
  if event ~= "return" then
    if not own_calls then own_calls = { count = 0, seconds = 0 } calls[key] = own_calls end
    own_calls.count = own_calls.count + 1
    if event == "tail call" then running[#running] = nil end
    running[#running + 1] = { key = key, since = clock() }
  elseif own_calls and running[#running] and running[#running].key == key then
    own_calls.seconds = own_calls.seconds + clock() - running[#running].since
    running[#running] = nil
  end
end

local function hook(event, line)
  -- No tail calls: both count the frames up to the script.
  if event == "line" then at_line(line) return end
  if event ~= "count" then at_call(event) return end
  used = used + HOOK_EVERY
  if stopped or used > budget then stop() end
  if used - told >= budget / 50 then told = used tell() end
end

local function text(v) if v == nil then return nil end return tostring(v) end
function say(...)
  local parts = pack(...)
  for i = 1, parts.n do parts[i] = tostring(parts[i]) end
  host.say(concat(parts, " "))
end
print = say
function fire(name, action, value) host.fire(tostring(name), tostring(action), text(value)) end
function get(name, property)
  -- A local, so that a missing value is one nil and not no value at all.
  local value = host.get(tostring(name), tostring(property))
  return value
end
function set(name, property, value) host.set(tostring(name), tostring(property), value) end
function win(t) host.win(text(t) or "") end
function recall(name) return host.recall(tostring(name)) end
function remember(name, value) if value == nil then value = true end host.remember(tostring(name), value) end
function after(seconds, fn)
  if type(fn) ~= "function" then error("after: the second argument has to be a function", 2) end
  next_id = next_id + 1
  if not host.after(tonumber(seconds) or 0, next_id) then error("after: too many calls are waiting already", 2) end
  pending[next_id] = fn
end

-- A run can be repeated, so chance is the same every time.
math.randomseed(20261)

io, os, require, package, dofile, loadfile, debug, collectgarbage, warn = nil
string.dump = nil

_G.setmetatable = function(t, meta)
  if type(meta) == "table" and rawget(meta, "__gc") ~= nil then error("__gc is not there for game scripts", 2) end
  return setmetatable(t, meta)
end

-- Hands on that the budget is spent where a script would catch it.
local function passed(...)
  if stopped then stop() end
  return ...
end
_G.pcall = function(...) return passed(pcall(...)) end
_G.xpcall = function(...) return passed(xpcall(...)) end
coroutine.resume = function(...) return passed(co_resume(...)) end
coroutine.create = function(fn)
  if type(fn) ~= "function" then error("bad argument #1 to 'create' (function expected, got " .. type(fn) .. ")", 2) end
  local co = co_create(fn)
  sethook(co, hook, mask, HOOK_EVERY)
  -- What a coroutine does before its first hook is not counted, so making one costs something.
  used = used + 200
  return co
end
local create = coroutine.create
coroutine.wrap = function(fn)
  if type(fn) ~= "function" then error("bad argument #1 to 'wrap' (function expected, got " .. type(fn) .. ")", 2) end
  local co = create(fn)
  local function through(ok, ...)
    if ok then return passed(...) end
    co_close(co)
    error((...), 0)
  end
  return function(...) return through(co_resume(co, ...)) end
end

-- What Lua's own functions say of their arguments is said of the script's line and by the name that it used.
local function keep(...) return ... end
local function direct(fn, ...) return keep(fn(...)) end
local function answered(name, ok, ...)
  if ok then return passed(...) end
  local message = ...
  if type(message) == "string" and find(message, "^${CHUNK}:%d+: ") then
    message = gsub(gsub(message, "^${CHUNK}:%d+: ", ""), " to 'fn'", " to '" .. name .. "'")
    -- Those who called are tail calls, so the script is next.
    error(message, 2)
  end
  error(message, 0)
end
local function through(name, fn, ...) return answered(name, pcall(direct, fn, ...)) end

-- Repetitions in a pattern; the time that it may take is the length of the text to that power.
local powers, known = {}, 0
local function power(pattern)
  local n = powers[pattern]
  if not n then
    n = select(2, gsub(pattern, "[*+?-]", ""))
    if known > 500 then powers, known = {}, 0 end
    powers[pattern], known = n, known + 1
  end
  return n
end
local function heavy(s, pattern)
  if type(s) == "string" and type(pattern) == "string" and #s > 20 and (#s) ^ power(pattern) > 1e5 then tell() end
end
string.find = function(s, pattern, ...)
  heavy(s, pattern)
  return through("find", find, s, pattern, ...)
end
string.match = function(s, pattern, ...)
  heavy(s, pattern)
  return through("match", match, s, pattern, ...)
end
string.gsub = function(s, pattern, ...)
  heavy(s, pattern)
  return through("gsub", gsub, s, pattern, ...)
end
string.gmatch = function(s, pattern, ...)
  local step = through("gmatch", gmatch, s, pattern, ...)
  return function()
    heavy(s, pattern)
    return through("gmatch", step)
  end
end
string.rep = function(s, n, separator)
  local length = (type(s) == "string" and #s or 8) + (type(separator) == "string" and #separator or 0)
  if type(n) == "number" and n > 0 and n * length > most_text then error("resulting string too large", 2) end
  return through("rep", rep, s, n, separator)
end
local function range(from, to, what)
  if type(from) == "number" and type(to) == "number" and to - from > most_text then error(what .. ": too many elements", 3) end
  if type(from) == "number" and type(to) == "number" and to - from > 1e4 then tell() end
end
table.move = function(a, from, to, ...) range(from, to, "table.move") return through("move", move, a, from, to, ...) end
table.concat = function(t, separator, from, to)
  range(from or 1, to or (type(t) == "table" and #t or 0), "table.concat")
  return through("concat", concat, t, separator, from or 1, to)
end
table.sort = function(t, before) range(1, type(t) == "table" and #t or 0, "table.sort") return through("sort", sort, t, before) end

-- Who called whom where an error arose, from within outwards; the place of the error itself is in its message.
local stack = {}
local function traced(message)
  stack = {}
  for level = 2, 40 do
    local info = getinfo(level, "Sln")
    if not info or #stack >= 20 then break end
    if find(info.source, "^@") and info.currentline > 0 then
      stack[#stack + 1] = (info.name or "the file") .. " (" .. sub(info.source, 2) .. ":" .. info.currentline .. ")"
    end
  end
  return message
end
local function guarded(fn, what, ...)
  if stopped then return false end
  if depth >= most_deep then
    host.error("calls within calls: " .. what .. " is called by signals that it sends itself")
    return false
  end
  local info = getinfo(fn, "S")
  if info and find(info.source, "^@") then host.at(sub(info.source, 2), info.linedefined, what) end
  depth = depth + 1
  if depth == 1 then running = {} end
  sethook(hook, mask, HOOK_EVERY)
  local ok, message = xpcall(fn, traced, ...)
  sethook()
  depth = depth - 1
  if not ok then
    if type(message) == "number" then message = format("%g", message) end
    local callers = #stack > 1 and concat(stack, "\\n", 2) or ""
    stack = {}
    host.error(type(message) == "string" and message or ("an error that is no text but a " .. type(message)), callers)
  end
  return ok
end
local function run_chunk(source, name)
  local fn, message = load(source, "@" .. name, "t")
  if not fn then host.error(message) return false end
  return guarded(fn, name)
end
_G.load = function(chunk, name, mode, ...)
  tell()
  return through("load", load, chunk, name, "t", ...)
end
-- What scripts have set themselves: all globals but those that were there before the first script.
local ours = {}
local function values()
  local out = {}
  for name, value in next, globals do
    if type(name) == "string" and not ours[name] and type(value) ~= "function" then out[name] = value end
  end
  return out
end
-- Runs the new text of a file; values that it sets anew get back what they were, where they are of the same type.
local function reload_chunk(source, name, gone)
  local fn, message = load(source, "@" .. name, "t")
  if not fn then host.error(message) return nil end
  local before, kept, anew = values(), {}, {}
  for function_name in gmatch(gone, "%S+") do
    if not ours[function_name] and type(rawget(globals, function_name)) == "function" then rawset(globals, function_name, nil) end
  end
  local ok = guarded(fn, name)
  for own_name, value in next, before do
    local now = rawget(globals, own_name)
    if now ~= value then
      if not ok or type(now) == type(value) then
        rawset(globals, own_name, value)
        kept[#kept + 1] = own_name
      else
        anew[#anew + 1] = own_name
      end
    end
  end
  sort(kept)
  sort(anew)
  return (ok and "" or "failed") .. ";" .. concat(kept, " ") .. ";" .. concat(anew, " ")
end
-- A value as people read it: texts in quotes, tables one level deep.
local most_shown = 20
local function shown(value, inner)
  if type(value) == "string" then return format("%q", #value > 500 and sub(value, 1, 500) .. " ..." or value) end
  if type(value) ~= "table" then return tostring(value) end
  if inner then return "{...}" end
  local parts, left = {}, 0
  for key, own_value in next, value do
    if #parts < most_shown then
      local name = type(key) == "string" and find(key, "^[%a_][%w_]*$") and key or ("[" .. shown(key, true) .. "]")
      parts[#parts + 1] = name .. " = " .. shown(own_value, true)
    else
      left = left + 1
    end
  end
  sort(parts)
  if left > 0 then parts[#parts + 1] = "and " .. left .. " more" end
  return "{ " .. concat(parts, ", ") .. " }"
end
-- What is typed while the game runs: an expression, whose values are answered, or statements.
local function evaluate(source)
  local fn, message = load("return " .. source, "@console", "t")
  if not fn then fn, message = load(source, "@console", "t") end
  if not fn then host.error(message) return nil end
  local result
  local ok = guarded(function()
    local values = pack(fn())
    for i = 1, values.n do values[i] = shown(values[i]) end
    result = concat(values, ", ")
  end, "console")
  if ok then return result end
end
-- The run as a watched expression sees it.
local from_game = getinfo(1, "S").source
local originals, proxies = setmetatable({}, { __mode = "k" }), setmetatable({}, { __mode = "k" })
local reads, instead = {}, {}
local wrap
local function refuse(what) error(what .. " would change the run: what is watched only reads", 0) end
local function read(t, key)
  local value = rawget(t, key)
  if value ~= nil then return wrap(value, key) end
  local meta = getmetatable(t)
  local index = type(meta) == "table" and rawget(meta, "__index") or nil
  if index == nil then return nil end
  if type(index) == "table" then return read(index, key) end
  return wrap(index, key)(proxies[t], key)
end
local function after_key(t, key)
  local own_key, value = next(t, originals[key] or key)
  return wrap(own_key, own_key), wrap(value, own_key)
end
local proxy_meta = {
  __index = function(proxy, key) return read(originals[proxy], originals[key] or key) end,
  __newindex = function(_, key) refuse("setting " .. tostring(key)) end,
  __len = function(proxy) return rawlen(originals[proxy]) end,
  __pairs = function(proxy) return function(p, key) return after_key(originals[p], key) end, proxy, nil end,
  __metatable = false,
}
local function proxy_of(t)
  local proxy = proxies[t]
  if not proxy then
    proxy = setmetatable({}, proxy_meta)
    proxies[t], originals[proxy] = proxy, t
  end
  return proxy
end
-- A function of a script with variables of its own, which begin as those of the run are. The copies of one look share them, as the originals do.
local copies, shared
local function copy_of(fn)
  local copy = copies[fn]
  if copy then return copy end
  copy = load(dump(fn), "=watch", "b")
  copies[fn] = copy
  local index = 1
  while true do
    local name, value = getupvalue(fn, index)
    if not name then break end
    local id = upvalueid(fn, index)
    local known = shared[id]
    if known then upvaluejoin(copy, index, known[1], known[2])
    else
      shared[id] = { copy, index }
      setupvalue(copy, index, wrap(value, name))
    end
    index = index + 1
  end
  return copy
end
function wrap(value, name)
  local kind = type(value)
  if kind == "table" then return originals[value] and value or proxy_of(value) end
  if kind ~= "function" or reads[value] then return value end
  if instead[value] then return instead[value] end
  local info = getinfo(value, "S")
  if info.what ~= "C" and info.source ~= from_game then return copy_of(value) end
  return function() refuse(tostring(name) .. "()") end
end
-- Looks without leaving a trace: neither in what scripts hold, nor in what they have spent of their step.
local function look(fn)
  local before_used, before_told, before_stopped, before_depth = used, told, stopped, depth
  used, told, stopped = 0, 0, false
  copies, shared = {}, {}
  local values = pack(pcall(fn))
  for i = 2, values.n do values[i] = shown(originals[values[i]] or values[i]) end
  used, told, stopped, depth = before_used, before_told, before_stopped, before_depth
  return (values[1] and "" or "error: ") .. (values[1] and concat(values, ", ", 2) or tostring(values[2]))
end
-- What an expression is worth: nil and what is wrong with it, or its values as people read them.
local function worth(source)
  local fn = load("return " .. source, "=watch", "t", proxy_of(globals))
  if not fn then return "?" end
  sethook(hook, "", HOOK_EVERY)
  local told_worth = look(fn)
  sethook()
  return told_worth
end
local function refresh() mask = (measuring or next(points)) and (measuring and "lcr" or "l") or "" end
local function measure(on) measuring = on refresh() end
local function clear_points() points = {} refresh() end
-- Names of an expression are those that the line sees: its locals, then those of functions around it, then globals.
local function log_point(source, line, expression)
  local scope
  local env = setmetatable({}, {
    __index = function(_, name)
      local entry = scope[name]
      if entry then return wrap(entry[1], name) end
      return read(globals, name)
    end,
    __newindex = function(_, name) refuse("setting " .. tostring(name)) end,
  })
  local fn = load("return " .. expression, "=log", "t", env)
  if not fn then return false end
  local of = "@" .. source
  points[of] = points[of] or {}
  points[of][line] = function()
    logging = true
    scope = {}
    local info = getinfo(4, "f")
    local index = 1
    while true do
      local name, value = getupvalue(info.func, index)
      if not name then break end
      scope[name] = { value }
      index = index + 1
    end
    index = 1
    while true do
      local name, value = getlocal(4, index)
      if not name then break end
      if not find(name, "^%(") then scope[name] = { value } end
      index = index + 1
    end
    host.log(source, line, expression, look(fn))
    logging = false
  end
  refresh()
  return true
end
local function measured()
  local out = {}
  for source, own_lines in next, lines do
    for line, count in next, own_lines do out[#out + 1] = format("L\\t%s\\t%d\\t%d\\t0", sub(source, 2), line, count) end
  end
  for key, own_calls in next, calls do
    local source, line = match(key, "^@(.*):(%d+)$")
    out[#out + 1] = format("C\\t%s\\t%s\\t%d\\t%.6f", source, line, own_calls.count, own_calls.seconds)
  end
  lines, calls = {}, {}
  return concat(out, "\\n")
end
-- Scripts that run for one object: their globals are their own, and "self" is the object.
local attached = {}
-- Those of the prelude, whatever scripts make of the globals of the same names.
local own_get, own_set, own_fire = get, set, fire
local self_functions = {
  get = function(self, property) return own_get(self.name, property) end,
  set = function(self, property, value) own_set(self.name, property, value) end,
  fire = function(self, action, value) own_fire(self.name, action, value) end,
}
local function attach(source, name, object)
  local env = setmetatable({}, { __index = globals })
  env.self = setmetatable({ name = object }, { __index = self_functions })
  local fn, message = load(source, "@" .. name, "t", env)
  if not fn then host.error(message) return nil end
  local before = attached[object]
  local ok = guarded(fn, name)
  if before then
    for key, value in next, before do
      local now = rawget(env, key)
      if key ~= "self" and type(value) ~= "function" and now ~= nil and type(now) == type(value) then rawset(env, key, value) end
    end
  end
  attached[object] = env
  return ok
end
local function detach(object) attached[object] = nil end
local function object_event(object, event, value)
  local env = attached[object]
  local fn = env and rawget(env, "on_" .. event)
  if type(fn) == "function" then guarded(fn, object .. ".on_" .. event, value) end
end
-- All that scripts remember, as text: their globals, and the locals that their global functions share.
local function memory()
  local out, seen = {}, {}
  for name, value in next, globals do
    if type(name) == "string" and not ours[name] then
      if type(value) ~= "function" then out[#out + 1] = name .. "=" .. shown(value)
      else
        local index = 1
        while true do
          local inner, own_value = getupvalue(value, index)
          if not inner then break end
          local kind = type(own_value)
          if inner ~= "_ENV" and kind ~= "function" and not seen[inner] then
            seen[inner] = true
            out[#out + 1] = "(" .. inner .. ")=" .. shown(own_value)
          end
          index = index + 1
        end
      end
    end
  end
  for object, env in next, attached do
    for name, value in next, env do
      if name ~= "self" and type(value) ~= "function" then out[#out + 1] = object .. "." .. tostring(name) .. "=" .. shown(value) end
    end
  end
  sort(out)
  return concat(out, "\\n")
end
local function call(name, value, source)
  local fn = rawget(globals, name)
  if type(fn) ~= "function" then host.error("no function " .. name) return false end
  return guarded(fn, name, value, source)
end
local function resume(id)
  local fn = pending[id]
  pending[id] = nil
  if fn then guarded(fn, "after") end
end
local function new_step() used, told, stopped = 0, 0, false end
for name in next, globals do ours[name] = true end
for _, fn in next, { get, recall, tostring, tonumber, type, select, ipairs, pairs, assert, error, _G.pcall, _G.xpcall,
  table.concat, table.unpack, table.pack } do reads[fn] = true end
for _, library in next, { string, math, utf8 } do
  for name, fn in next, library do if type(fn) == "function" and name ~= "random" and name ~= "randomseed" then reads[fn] = true end end
end
instead[next] = function(t, key) if originals[t] then return after_key(originals[t], key) end return next(t, key) end
instead[_G.rawget] = function(t, key) if originals[t] then return wrap(rawget(originals[t], originals[key] or key), key) end return rawget(t, key) end
instead[_G.rawlen] = function(t) return rawlen(originals[t] or t) end
instead[_G.rawequal] = function(a, b) return rawequal(originals[a] or a, originals[b] or b) end
instead[_G.getmetatable] = function(t) if originals[t] then return wrap(getmetatable(originals[t]), "the metatable") end return getmetatable(t) end
-- Tables that a look makes are its own.
local function own_table(name, fn)
  return function(t, ...) if originals[t] then refuse(name) end return fn(t, ...) end
end
instead[table.insert] = own_table("table.insert", table.insert)
instead[table.remove] = own_table("table.remove", table.remove)
instead[table.sort] = own_table("table.sort", table.sort)
instead[_G.rawset] = own_table("rawset", rawset)
instead[_G.setmetatable] = own_table("setmetatable", _G.setmetatable)
return { run_chunk = run_chunk, reload = reload_chunk, evaluate = evaluate, call = call, resume = resume, new_step = new_step,
  worth = worth, measure = measure, measured = measured, log_point = log_point, clear_points = clear_points, memory = memory,
  attach = attach, detach = detach, object_event = object_event,
  has = function(name) return type(rawget(globals, name)) == "function" end }
`;
