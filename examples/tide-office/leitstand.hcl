# The keyboards of the tide office at Süderhaff: one mapping for every machine
# that the keeper of the gauge software sits at.
version = 1

machine "office" {
  system  = "linux"
  desktop = "plasma"
  session = "wayland"
  layouts = ["de"]
  boards  = ["chart-table"]
}
machine "gauge" { # beside the instruments
  system  = "linux"
  desktop = "i3"
  layouts = ["de(nodeadkeys)"]
}
machine "mess" {
  system  = "linux"
  desktop = "xfce"
  layouts = ["fr", "us"]
  boards  = ["wheelhouse"]
}
machine "vessel" { # the laptop aboard the survey boat
  system  = "macos"
  layouts = ["de"]
  boards  = ["vessel-own", "chart-table"]
}
machine "lab" {
  system         = "windows"
  layouts        = ["de"]
  boards         = ["chart-table"]
  layout_library = true # a keyboard layout of our own may be added
}
machine "tablet" {
  system = "ipados"
  boards = ["wheelhouse"]
}

board "chart-table" {
  ids   = ["usb:1209:0001", "bluetooth:1209:0002"]
  shape = ["iso", "full"]
}
board "wheelhouse" {
  ids   = ["usb:1209:0003"]
  shape = ["iso", "compact"]
  lacks = ["ContextMenu", "Insert", "ScrollLock"]
}
board "vessel-own" {
  ids     = ["built-in"]
  legends = "mac"
}

app "terminal" {
  linux   = "xterm"
  macos   = "com.apple.Terminal"
  windows = "%LOCALAPPDATA%\\Microsoft\\WindowsApps\\wt.exe"
}
app "gauge-console" {
  linux   = ["tidegauge", "--station", "Süderhaff 3"]
  macos   = ["/usr/local/bin/tidegauge", "--station", "Süderhaff 3"]
  windows = ["C:\\Program Files\\Tidegauge\\tidegauge.exe", "--station", "Süderhaff 3"]
}
modifier "Desk" { # what moves windows and workspaces
  macos = "Ctrl+Alt"
  other = "Meta"
}
let { datum = "NHN -5.00 m" }

# --- The keys ------------------------------------------------------------------

hyper "CapsLock" {
  why      = "the largest idle key, under the little finger"
  fallback = "ControlLeft" # where a system has no Hyper,
  instead  = "Ctrl+Alt"    # and what the chords below take there
}
on "linux" "windows" {
  keys = {
    ContextMenu = "MetaRight"
    ScrollLock  = "MediaPlayPause"
    Insert      = { to = "off", why = "overwrites in the log when hit by accident" }
  }
}
on "linux" {
  keys = { Pause = "Compose" } # for é and ½, and for the abbreviation below
}
on "macos" {
  hands { order = ["Ctrl", "Alt", "Meta"] } # on every board, as on the laptop
  on "chart-table" {
    remap "PrintScreen" { to = "F13" }
  }
}
swap "Backquote" "IntlBackslash" {
  on  = "vessel-own"
  why = "the laptop has them the other way round"
}

# --- Programs by hotkey --------------------------------------------------------

on "linux" "macos" "windows" {
  keys = {
    "Hyper+t" = { app = "terminal" }
    "Hyper+g" = { app = "gauge-console" }
    "Hyper+w" = { open = "https://tides.example/suederhaff?days=3" }
  }
}

# --- What only some machines can do yet ----------------------------------------

group "wishes" {
  allow = "unavailable" # wanted everywhere; what cannot be had is meant to be left out
  keys = {
    "Desk+ArrowLeft"  = { does = "tile-left" }
    "Desk+ArrowRight" = { does = "tile-right" }
    "Ctrl+Alt+v"      = "Ctrl+Shift+v" # paste without the format
    "Meta+h"          = { to = "off", on = "windows", why = "voice typing opens by accident" }
    F7                = { text = let.datum }
    F8                = { steps = [{ press = "Ctrl+s" }, { wait = "100ms" }, { text = "saved" }] }
  }
  layer "arrows" {
    while = "ControlRight"
    keys = {
      KeyH = "ArrowLeft"
      KeyJ = "ArrowDown"
      KeyK = "ArrowUp"
      KeyL = "ArrowRight"
      KeyD = "Ctrl+d"
      KeyE = "€"
      KeyM = { does = "maximize" }
    }
  }
  abbreviation ";shf" { text = "Tide office Süderhaff" }
  repeat {
    delay = "220ms"
    rate  = 40
  }
  native "macos" { settings = { "com.apple.dock autohide" = true } }
}
