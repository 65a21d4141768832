package picture

import (
	"path"
	"strings"
	"unicode"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
)

// Kind is what sort of thing a key does, which a picture shows by a sign of its own.
type Kind string

// The kinds.
const (
	Key      Kind = "key"       // it acts as another key, or as a chord
	Modifier Kind = "modifier"  // it is held, as Hyper is
	Types    Kind = "types"     // a character or a text
	Layer    Kind = "layer"     // it leads to a layer
	Starts   Kind = "starts"    // a program, or a page
	Does     Kind = "does"      // the desktop or the program does something
	Off      Kind = "off"       // nothing
	Two      Kind = "two"       // one thing tapped, another held
	Waits    Kind = "waits"     // for the next key: Compose, or the first stroke of several
	Stock    Kind = "by itself" // what the desktop or the system does as it comes
	Lost     Kind = "lost"      // the mapping wants it, and the machine does not do it
)

// Kinds are all of them, with what each is in words.
var Kinds = []struct {
	Kind  Kind
	Words string
}{
	{Key, "another key, or keys"}, {Modifier, "a modifier"}, {Types, "a character or text"}, {Layer, "a layer"},
	{
		Starts,
		"starts something",
	}, {Does, "does something"}, {Off, "nothing: off"}, {Two, "tapped one thing, held another"},
	{
		Waits,
		"waits for the next key",
	}, {Stock, "what the system has there by itself"}, {Lost, "wanted, not available here"},
}

func kindOf(e behaviour.Effect) Kind {
	switch e.Kind {
	case behaviour.Becomes, behaviour.Sends:
		return Key
	case behaviour.Modifier:
		return Modifier
	case behaviour.Types:
		return Types
	case behaviour.Layers, behaviour.Leaves:
		return Layer
	case behaviour.Launches:
		return Starts
	case behaviour.Nothing:
		return Off
	case behaviour.TapHold:
		return Two
	case behaviour.Composes:
		return Waits
	case behaviour.Acts, behaviour.Chooses, behaviour.Plays, behaviour.Sets, behaviour.Other:
		return Does
	}
	return Does
}

// capWords are the words of caps: those of a layout, on a board made for a PC or a Mac.
type capWords struct {
	layout *keys.Layout
	mac    bool
}

// onCaps are what caps say of keys without a character.
var onCaps = map[string]string{
	"Escape": "Esc", "Backspace": "Bksp", "CapsLock": "Caps", "ShiftLeft": "Shift", "ShiftRight": "Shift",
	"ControlLeft": "Ctrl", "ControlRight": "Ctrl", "MetaLeft": "Meta", "MetaRight": "Meta", "AltLeft": "Alt",
	"AltRight": "Alt", "ContextMenu": "Menu", "Space": "", "PrintScreen": "Print", "ScrollLock": "Scrl",
	"Pause": "Pause", "Insert": "Ins", "Delete": "Del", "PageUp": "PgUp", "PageDown": "PgDn", "ArrowLeft": "←",
	"ArrowRight": "→", "ArrowUp": "↑", "ArrowDown": "↓", "NumLock": "Num", "NumpadDivide": "/", "NumpadMultiply": "*",
	"NumpadSubtract": "-", "NumpadAdd": "+", "NumpadEnter": "Enter", "NumpadDecimal": ".", "NumpadEqual": "=",
	"NonConvert": "無変換", "Convert": "変換", "KanaMode": "かな",
}

// onMacCaps are those that say something else on a board made for a Mac.
var onMacCaps = map[string]string{
	"AltLeft": "Opt", "AltRight": "Opt", "MetaLeft": "Cmd", "MetaRight": "Cmd", "NumLock": "Clear",
}

// printed is what the cap of a key says.
func (w capWords) printed(k keys.Key) string {
	name := k.String()
	if word, ok := onMacCaps[name]; ok && w.mac {
		return word
	}
	if s, ok := w.layout.Symbols(k); ok && name == "AltRight" && s.Level[0] == "ISO_Level3_Shift" {
		return "AltGr"
	}
	if word, ok := onCaps[name]; ok {
		return word
	}
	if digit, ok := strings.CutPrefix(name, "Numpad"); ok && len(digit) == 1 {
		return digit
	}
	return w.layout.Cap(k)
}

// shifted is what a cap says above, of a key that types another sign with Shift; "" for letters.
func (w capWords) shifted(k keys.Key) string {
	if k.Section() != keys.Writing {
		return ""
	}
	plain, _ := w.layout.Type(keys.TypeState{}, k, 0)
	text, next := w.layout.Type(keys.TypeState{}, k, keys.Shift)
	if text == "" {
		text = next.Accents
	}
	r, _ := utf8.DecodeRuneInString(text)
	if text == plain || text == "" || strings.TrimSpace(text) == "" || !unicode.IsPrint(r) ||
		strings.ToUpper(plain) == text || text == w.printed(k) {
		return ""
	}
	return text
}

// dead says whether a key waits for the next one by itself.
func (w capWords) dead(k keys.Key) bool {
	text, next := w.layout.Type(keys.TypeState{}, k, 0)
	return text == "" && next.Accents != "" && k.Section() == keys.Writing
}

// key names a key in a word.
func (w capWords) key(k keys.Key) string {
	if k.String() == "Space" {
		return "Space"
	}
	text := w.printed(k)
	if text != k.String() {
		return text
	}
	var words []string // of a name such as MediaPlayPause
	start := 0
	for i, r := range text {
		if i > 0 && unicode.IsUpper(r) {
			words, start = append(words, text[start:i]), i
		}
	}
	if words = append(words, text[start:]); len(words) > 1 && (words[0] == "Media" || words[0] == "Browser" ||
		words[0] == "Audio") {
		words = words[1:]
	}
	return strings.Join(words, " ")
}

// chord spells a chord with the words of caps.
func (w capWords) chord(c keys.Chord) string {
	parts := c.Mods.Names()
	if c.Key != keys.None {
		parts = append(parts, w.key(c.Key))
	}
	return strings.Join(parts, "+")
}

// short says an effect in a word or two, which have a place on a cap.
func (w capWords) short(e behaviour.Effect) string {
	switch e.Kind {
	case behaviour.Becomes:
		return w.key(e.Key)
	case behaviour.Nothing:
		return "off"
	case behaviour.Modifier:
		return strings.Join(e.Mods.Names(), "+")
	case behaviour.Sends:
		return w.chord(e.Chord)
	case behaviour.Types:
		return strings.Join(strings.Fields(e.Text), " ")
	case behaviour.TapHold:
		return w.short(*e.Tap) + " / " + w.short(*e.Hold)
	case behaviour.Layers:
		return e.Layer
	case behaviour.Leaves:
		return "leave " + e.Layer
	case behaviour.Composes:
		return "Compose"
	case behaviour.Launches:
		return target(e.Launch())
	case behaviour.Acts:
		return strings.ReplaceAll(e.Action, "-", " ")
	case behaviour.Chooses:
		return e.Item()[len(e.Item())-1]
	case behaviour.Plays:
		return "macro"
	case behaviour.Sets, behaviour.Other:
		return e.String()
	}
	return e.String()
}

// target is the name of what is started.
func target(l behaviour.Launch) string {
	switch {
	case l.Open != "":
		_, rest, found := strings.Cut(l.Open, "://")
		if !found {
			return base(l.Open)
		}
		host, _, _ := strings.Cut(rest, "/")
		return host
	case l.App != "":
		name := strings.TrimSuffix(base(l.App), ".desktop")
		return name[strings.LastIndexByte(name, '.')+1:]
	case len(l.Command) > 0:
		return strings.TrimSuffix(base(l.Command[0]), ".exe")
	}
	return "nothing"
}

// base is the last part of a path of any system.
func base(p string) string { return path.Base(strings.ReplaceAll(p, `\`, "/")) }
