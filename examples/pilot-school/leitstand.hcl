# The teaching lab of the pilots' school at Nordersiel: two rows of machines, for all who sit there.
machine "row-a" {
  hosts   = ["pc-a-*", "pc-b-*"]
  system  = "linux"
  desktop = "gnome"
  layouts = ["de"]
}
machine "row-c" {
  hosts   = ["pc-c-*"]
  system  = "windows"
  layouts = ["de"]
  allow   = "unavailable"
}
group "lessons" {
  everyone = true
  why      = "keys that are hit by accident cost a lesson"
  disable "Insert" "ScrollLock" {}
  keys = {
    CapsLock          = "ShiftLeft"
    "Ctrl+Alt+k"      = { run = "chartplot", on = "linux" }
    "Ctrl+Alt+r"      = { run = ["radar", "--practice"], on = "linux" }
    "Ctrl+Alt+u"      = { open = "https://pilots.example/lessons", on = "linux" }
    "Meta+ArrowLeft"  = { does = "tile-left" }
    "Meta+ArrowRight" = { does = "tile-right" }
  }
}
