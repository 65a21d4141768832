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
  allow   = "not-done"
}
group "lessons" {
  everyone = true
  why      = "keys that are hit by accident cost a lesson"
  disable { keys = ["Insert", "ScrollLock"] }
  remap { to = { CapsLock = "ShiftLeft" } }
  launch {
    on   = "linux"
    run  = { "Ctrl+Alt+k" = "chartplot", "Ctrl+Alt+r" = ["radar", "--practice"] }
    open = { "Ctrl+Alt+u" = "https://pilots.example/lessons" }
  }
  action { does = { "Meta+ArrowLeft" = "tile-left", "Meta+ArrowRight" = "tile-right" } }
}
