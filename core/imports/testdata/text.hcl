version = 1

machine "gauge" {
  system  = "linux"
  desktop = "gnome"
  session = "x11"
  layouts = ["us"]
}

app "gauge" { linux = "org.tides.Gauge.desktop" }

app "gauge-2" { linux = "example.mess.Gauge.desktop" }

app "gauge-3" { linux = "example.harbour.Gauge.desktop" }

app "program" { linux = "org.tides.LONG.desktop" }

swap "F1" "F2" {}
hyper "ScrollLock" {}
keys = {
  CapsLock = "Escape"
  Insert   = "off"
  "Meta+a" = { app = "gauge", override = true }
  "Meta+b" = { app = "gauge-2" }
  "Meta+c" = { app = "gauge-3" }
  "Meta+d" = { app = "program" }
  "Meta+e" = { run = "a\tb\r\n\u007f\u001f\"\\${x}%{y}~ü" }
  "Meta+f" = { run = ["x", "a b"] }
}
repeat {
  delay  = "250ms"
  never  = ["KeyA"]
  always = ["KeyB"]
}

# Not taken over:
# - keys:3: a b c? : why not
