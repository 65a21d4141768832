# The two machines with which the tide office reads its pole.
machine "hut" {
  system  = "linux"
  desktop = "gnome"
  layouts = ["de"]
}
machine "walk" { # a laptop
  system  = "macos"
  layouts = ["de"]
  allow   = "unavailable"
}
hyper "CapsLock" {
  fallback = "Escape"
  instead  = "Ctrl+Alt"
}
keys = {
  Insert    = "off"
  "Hyper+t" = { run = "xterm" }
  "Hyper+w" = { open = "https://tides.example/pole" }
}
repeat { delay = "220ms" }
