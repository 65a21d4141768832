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
remap "CapsLock" { to = "Escape" }
disable "Insert" {}
launch "Meta+a" {
  app   = "gauge"
  takes = true
}
launch {
  app = {
    "Meta+b" = "gauge-2"
    "Meta+c" = "gauge-3"
    "Meta+d" = "program"
  }
  run = {
    "Meta+e" = "a\tb\r\n\u007f\u001f\"\\${x}%{y}~ü"
    "Meta+f" = ["x", "a b"]
  }
}
repeat {
  delay  = "250ms"
  never  = ["KeyA"]
  always = ["KeyB"]
}

# Not taken over:
# - keys:3: a b c? : why not
