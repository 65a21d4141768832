package audit

// conventions are what many programs do with a chord, whatever the system.
var conventions = map[string]string{
	"F1": "help", "F2": "rename", "F3": "find again", "F5": "reload", "F10": "the menu", "F11": "full screen",
	"Ctrl+KeyC": "copy", "Ctrl+KeyV": "paste", "Ctrl+KeyX": "cut", "Ctrl+KeyS": "save", "Ctrl+KeyA": "select all",
	"Ctrl+KeyF": "find", "Ctrl+KeyP": "print", "Ctrl+KeyO": "open", "Ctrl+KeyN": "new", "Ctrl+KeyW": "close",
	"Ctrl+KeyT": "a new tab", "Ctrl+KeyQ": "quit",
	"Meta+KeyC": "copy on a Mac", "Meta+KeyV": "paste on a Mac", "Meta+KeyQ": "quit on a Mac",
	"Meta+KeyW": "close on a Mac",
}
