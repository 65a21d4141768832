# The keyboards of the tide office at Süderhaff: one mapping for every machine
# that the keeper of the gauge software sits at.
version = 1

# --- The machines and boards -------------------------------------------------

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
  system  = "windows"
  layouts = ["de"]
  boards  = ["chart-table"]
}

machine "tablet" {
  system = "ipados"
  boards = ["wheelhouse"]
}

board "chart-table" {
  ids     = ["usb:1209:0001", "bluetooth:1209:0002"]
  shape   = ["iso", "full"]
  legends = "pc"
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

# --- The programs ------------------------------------------------------------

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

# --- Words of our own ----------------------------------------------------------

modifier "Desk" { # what moves windows and workspaces
  macos = "Ctrl+Alt"
  other = "Meta"
}

let {
  datum = "NHN -5.00 m"
}

# --- The keys ------------------------------------------------------------------

hyper "CapsLock" {
  why      = "the largest idle key, under the little finger"
  fallback = "ControlLeft" # where a system has no Hyper
}

on "linux" "windows" {
  remap {
    to = {
      ContextMenu = "MetaRight"
      ScrollLock  = "MediaPlayPause"
    }
  }
  disable "Insert" { why = "overwrites in the log when hit by accident" }
}

on "linux" {
  remap "Pause" { to = "Compose" } # for é and ½, and for the abbreviations below
}

on "macos" {
  hands { # Control, Option, Command on every board, as on the laptop
    order = ["Ctrl", "Alt", "Meta"]
  }
  remap "PrintScreen" {
    to = "F13"
    on = "chart-table"
  }
}

swap "Backquote" "IntlBackslash" {
  on  = "vessel-own"
  why = "the laptop has them the other way round"
}

# --- Programs by hotkey --------------------------------------------------------

group "launchers" {
  on "linux" "macos" "windows" {
    launch "Hyper+t" {
      app      = "terminal"
      fallback = "Ctrl+Alt+t"
    }
    launch "Hyper+g" {
      app      = "gauge-console"
      fallback = "Ctrl+Alt+g"
    }
    launch "Hyper+w" {
      open     = "https://tides.example/suederhaff?days=3"
      fallback = "Ctrl+Alt+w"
    }
  }
}

# --- What only some machines can do yet ----------------------------------------
# Each of these is wanted everywhere; what cannot be had is meant to be left out.

group "wishes" {
  action "Desk+ArrowLeft" {
    does  = "tile-left"
    allow = ["not-done"]
  }
  action "Desk+ArrowRight" {
    does  = "tile-right"
    allow = ["not-done"]
  }
  disable "Meta+h" {
    why   = "voice typing opens by accident"
    on    = "windows"
    allow = ["not-done"]
  }
  remap "Ctrl+Alt+v" { # paste without the format
    to    = "Ctrl+Shift+v"
    allow = ["not-done"]
  }
  layer "arrows" {
    while = "ControlRight"
    allow = ["not-done"]
    keys {
      KeyH = "ArrowLeft"
      KeyJ = "ArrowDown"
      KeyK = "ArrowUp"
      KeyL = "ArrowRight"
      KeyD = "Ctrl+d"
      KeyE = "€"
      KeyM = { does = "maximize" }
    }
  }
  snippet "F7" {
    text  = let.datum
    allow = ["not-done"]
  }
  snippet {
    abbreviation = ";shf"
    text         = "Tide office Süderhaff"
    allow        = ["not-done"]
  }
  macro "F8" {
    steps = ["press Ctrl+s", "wait 100ms", "type saved"]
    allow = ["not-done"]
  }
  repeat {
    delay = "220ms"
    rate  = 40
    allow = ["not-done"]
  }
  native "macos" {
    settings = { "com.apple.dock autohide" = true }
    allow    = ["not-done"]
  }
}
