machine "vessel" {
  system = "macos"
  boards = ["vessel-own", "chart-table"]
}
board "vessel-own" {
  ids = ["built-in"]
}
board "chart-table" {
  ids = ["usb:1209:0001", "bluetooth:1209:0002"]
}
