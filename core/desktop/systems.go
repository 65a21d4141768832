package desktop

import (
	"strconv"

	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
)

// fixed are the chords that a system acts on before any setting or program of a
// user can.
//
// Sources: the console switching of xkeyboard-config's function keys; Microsoft,
// "Keyboard shortcuts in Windows"; Apple, "Mac keyboard shortcuts".
func fixed(m *intent.Machine) []Use {
	var list []Use
	use := func(c keys.Chord, words string) {
		list = append(list, Use{Chord: c, Name: "system", Words: words, Fixed: true})
	}
	add := func(text, words string) {
		if c, ok := chord(text); ok {
			use(c, words)
		}
	}
	switch m.System {
	case machine.Linux:
		for n := 1; n <= 12; n++ {
			k, _ := keys.ByCode("F" + strconv.Itoa(n))
			use(keys.Chord{Mods: keys.Ctrl | keys.Alt, Key: k}, "switches to console "+strconv.Itoa(n))
		}
	case machine.Windows:
		add("Ctrl+Alt+Delete", "opens the security screen")
		add("Meta+KeyL", "locks the screen")
	case machine.MacOS:
		add("Meta+Tab", "switches programs")
		add("Alt+Meta+Escape", "opens the window to force programs to quit")
		add("Ctrl+Meta+KeyQ", "locks the screen")
		add("Shift+Meta+KeyQ", "logs out")
	case machine.IPadOS:
		add("Meta+Tab", "switches programs")
		add("Meta+KeyH", "goes to the home screen")
	}
	return list
}

// systems are the chords of systems without packages to ask, from the same lists.
var systems = map[machine.System][]listed{
	machine.Windows: {
		{"Ctrl+Shift+Escape", "task manager", "opens the task manager"}, {"Alt+Tab", "switch", "switches programs"}, {"Alt+F4", "close", "closes the window"},
		{"Ctrl+Escape", "start", "opens the Start menu"}, {"Meta+KeyA", "quick settings", "opens the quick settings"}, {"Meta+KeyD", "show-desktop", "shows the desktop"},
		{"Meta+KeyE", "explorer", "opens the Explorer"}, {"Meta+KeyG", "game bar", "opens the game bar"}, {"Meta+KeyH", "voice typing", "opens voice typing"},
		{"Meta+KeyI", "settings", "opens the settings"}, {"Meta+KeyK", "cast", "opens Cast"}, {"Meta+KeyM", "minimize all", "minimizes all windows"},
		{"Meta+KeyN", "notifications", "opens the notifications"}, {"Meta+KeyP", "project", "chooses the screens"}, {"Meta+KeyQ", "search", "opens the search"},
		{"Meta+KeyR", "run", "opens the Run window"}, {"Meta+KeyS", "search", "opens the search"}, {"Meta+KeyU", "accessibility", "opens the accessibility settings"},
		{"Meta+KeyV", "clipboard", "opens the clipboard's history"}, {"Meta+KeyW", "widgets", "opens the widgets"}, {"Meta+KeyX", "quick link", "opens the quick link menu"},
		{"Meta+KeyZ", "snap", "opens the snap layouts"}, {"Meta+ArrowLeft", "tile-left", "puts the window into the left half"},
		{"Meta+ArrowRight", "tile-right", "puts the window into the right half"}, {"Meta+ArrowUp", "maximize", "maximizes the window"},
		{"Meta+ArrowDown", "minimize", "makes the window smaller or minimizes it"}, {"Meta+Tab", "overview", "opens the task view"},
		{"Meta+Space", "next-input-source", "types with the next layout"}, {"Shift+Meta+KeyS", "screenshot-area", "takes a picture of an area"},
		{"Meta+PrintScreen", "screenshot", "saves a picture of the screen"}, {"Meta+Period", "emoji", "opens the emoji panel"},
		{"Ctrl+Meta+ArrowLeft", "previous-workspace", "goes to the previous desktop"}, {"Ctrl+Meta+ArrowRight", "next-workspace", "goes to the next desktop"},
		{"Ctrl+Meta+KeyD", "new desktop", "adds a desktop"}, {"Ctrl+Meta+F4", "close desktop", "closes the desktop"},
	},
	machine.MacOS: {
		{"Meta+Space", "search", "opens the search"}, {"Ctrl+Space", "previous-input-source", "types with the previous layout"},
		{"Ctrl+ArrowUp", "overview", "shows all windows"}, {"Ctrl+ArrowDown", "app-windows", "shows the program's windows"},
		{"Ctrl+ArrowLeft", "previous-workspace", "goes to the space on the left"}, {"Ctrl+ArrowRight", "next-workspace", "goes to the space on the right"},
		{"Shift+Meta+Digit3", "screenshot", "takes a picture of the screen"}, {"Shift+Meta+Digit4", "screenshot-area", "takes a picture of an area"},
		{"Shift+Meta+Digit5", "screenshot panel", "opens the screenshot panel"}, {"Meta+KeyH", "hide", "hides the program"}, {"Meta+KeyM", "minimize", "minimizes the window"},
		{"Meta+Backquote", "next-window-of-app", "goes to the program's next window"}, {"F11", "show-desktop", "shows the desktop"},
		{"Alt+Meta+KeyD", "dock", "hides or shows the Dock"}, {"Ctrl+Meta+KeyF", "full-screen", "fills the screen with the window"},
	},
}

// Pressable are the keys that a free chord may have: letters, digits, function keys
// and arrows.
func Pressable() []keys.Key {
	var list []keys.Key
	for _, k := range keys.All() {
		name := k.String()
		letter := len(name) == 4 && name[:3] == "Key"
		digit := len(name) == 6 && name[:5] == "Digit"
		function := len(name) <= 3 && name[0] == 'F' && name != "Fn" && (len(name) == 2 || name <= "F12")
		if letter || digit || function || k.Section() == keys.ArrowPad {
			list = append(list, k)
		}
	}
	return list
}
