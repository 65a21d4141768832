# The keeper of the lighthouse at Kliffende: five machines, three boards, one mapping.
version = 1

machine "lamp" { # the tower's own
  system  = "linux"
  desktop = "i3"
  session = "x11"
  layouts = ["de(nodeadkeys)", "us"]
  options = ["compose:menu"]
  boards  = ["brass", "pocket"]
}
machine "study" {
  system  = "linux"
  desktop = "gnome"
  session = "wayland"
  layouts = ["de"]
  boards  = ["brass"]
}
machine "boat" {
  system  = "macos"
  layouts = ["de"]
  boards  = ["boat-own", "pocket"]
}
machine "harbour" {
  system  = "windows"
  layouts = ["de"]
  boards  = ["brass"]
}
machine "slate" {
  system = "ipados"
  boards = ["pocket"]
}

board "brass" {
  ids   = ["usb:1209:0101"]
  shape = ["iso", "full"]
}
board "pocket" {
  ids    = ["bluetooth:1209:0102", "usb:1209:0103"]
  shape  = ["ansi", "compact"]
  lacks  = ["ContextMenu", "Insert", "ScrollLock", "Pause", "PrintScreen"]
  broken = ["F9"]
}
board "boat-own" {
  ids     = ["built-in"]
  legends = "mac"
}

app "terminal" {
  linux   = "xterm"
  macos   = "com.apple.Terminal"
  windows = "%LOCALAPPDATA%\\Microsoft\\WindowsApps\\wt.exe"
}
app "log" {
  linux   = ["lamplog", "--open"]
  macos   = "org.kliffende.lamplog"
  windows = "C:\\Program Files\\Lamplog\\lamplog.exe"
}
app "charts" {
  linux   = "chartplot"
  macos   = "org.kliffende.charts"
  windows = "C:\\Program Files\\Charts\\charts.exe"
}
modifier "Desk" {
  macos = "Ctrl+Alt"
  other = "Meta"
}
let { sig = "Kliffende light, 54 N" }

# --- The keys -------------------------------------------------------------------

hyper "CapsLock" {
  fallback = "Escape"
  instead  = "Ctrl+Alt"
}
on "macos" {
  hands { order = ["Ctrl", "Alt", "Meta"] }
  swap "Backquote" "IntlBackslash" { on = "boat-own" }
}
on "lamp" "study" {
  keys = {
    ScrollLock = "MediaPlayPause"
    Insert     = "off"
  }
}
on "x11" { # the same chord for the same thing, in every terminal
  keys = {
    "Ctrl+Alt+c" = "Ctrl+Insert"
    "Ctrl+Alt+v" = "Shift+Insert"
  }
}

# --- Programs and pages ---------------------------------------------------------

on "linux" "macos" "windows" {
  keys = {
    "Hyper+t" = { app = "terminal" }
    "Hyper+g" = { app = "log" }
    "Hyper+c" = { app = "charts" }
    "Hyper+w" = { open = "https://weather.example/kliffende" }
    "Hyper+b" = { open = "https://tides.example" }
    "Hyper+n" = { open = "https://notices.example/mariners" }
    "Hyper+h" = { open = "~/handbook.pdf" }
  }
}
on "linux" {
  keys = {
    "Hyper+r" = { run = ["xterm", "-e", "radar"] }
    "Hyper+d" = { run = ["lampctl", "dim", "10"] }
    "Hyper+u" = { run = ["lampctl", "dim", "100"] }
    "Hyper+f" = { run = ["lampctl", "fog", "on"], confirm = true }
    "Hyper+x" = { run = "~/bin/watch-report" }
    "Hyper+l" = { run = ["sh", "-c", "lamplog --today | less"] }
    "Hyper+k" = { run = "calc", dir = "~" }
  }
}

# --- What is wanted everywhere, and had where it can be -------------------------

group "wishes" {
  allow = "unavailable"
  keys = {
    # Modifiers under the resting fingers.
    KeyA      = { tap = "KeyA", hold = "MetaLeft" }
    KeyS      = { tap = "KeyS", hold = "AltLeft" }
    KeyD      = { tap = "KeyD", hold = "ShiftLeft" }
    KeyF      = { tap = "KeyF", hold = "ControlLeft" }
    KeyJ      = { tap = "KeyJ", hold = "ControlRight" }
    KeyK      = { tap = "KeyK", hold = "ShiftRight" }
    Semicolon = { tap = "Semicolon", hold = "MetaRight" }
    # Windows.
    "Desk+ArrowLeft"  = { does = "tile-left" }
    "Desk+ArrowRight" = { does = "tile-right" }
    "Desk+ArrowUp"    = { does = "maximize", override = true }
    "Desk+q"          = { does = "close" }
    "Desk+F1"         = { does = "workspace-1" }
    "Desk+F2"         = { does = "workspace-2" }
    # Texts.
    F7        = { text = let.sig }
    "Ctrl+F8" = { steps = [{ press = "Ctrl+s" }, { wait = "100ms" }, { text = let.sig }] }
  }
  layer "chart" {
    while = "ControlRight"
    keys = {
      KeyH = "ArrowLeft"
      KeyJ = "ArrowDown"
      KeyK = "ArrowUp"
      KeyL = "ArrowRight"
      KeyD = "°"
      KeyM = "Shift+Tab"
      KeyT = { app = "log" }
      KeyZ = { does = "full-screen" }
      KeyX = "off"
      KeyN = { text = "Nothing to report." }
    }
  }
  abbreviation ";ntr" { text = "Nothing to report." }
  abbreviation ";sig" { text = let.sig }
  repeat {
    delay = "220ms"
    rate  = 40
  }
}
