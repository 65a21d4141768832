// Package shelllink writes and reads Windows shell links (.lnk) and internet
// shortcuts (.url) that carry a hotkey.
//
// Explorer registers the hotkeys of the links that lie on the desktop or in the
// Start menu, for one user or for all; it notices a new link at sign-in, at times
// sooner. Pressed again while the program runs, a hotkey may bring its window to
// the front instead of starting it anew.
//
// A hotkey is a virtual key and any of Shift, Ctrl and Alt: no Windows key, no
// sides, and of the keys only those that Explorer's own dialog takes: letters, digits, signs, F1 to F24, the
// numpad's digits, arrows and those beside them (with a bit of their own), NumLock and ScrollLock; the published
// list of the format is shorter. A virtual key follows the layout, so the file is for one layout. Before a
// link's program is started, Explorer asks all windows, which takes up to some seconds. F12 by itself is the
// debugger's. AltGr
// is Ctrl+Alt to Windows: such a hotkey takes the character that AltGr types with
// the same key.
//
// Sources: Microsoft, "[MS-SHLLINK]: Shell Link (.LNK) Binary File Format";
// "[MS-DTYP]" for GUIDs; the shell item layout as documented by the libyal
// project's "Windows Shell Item format"; "Parsing C++ command-line arguments".
package shelllink

import (
	"slices"
	"strings"
	"unicode/utf16"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is the hotkey stage of Windows.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "shelllink", Stage: mechanism.Desktop, Evidence: mechanism.Parsed,
		Basis: "Wine's IShellLink read program, arguments, folder and hotkey back",
		When:  mechanism.LogIn, Takes: "at sign-in, at times sooner",
	}
}

// FactsForAll describes the mechanism in the Start menu of all users.
func (t Mechanism) FactsForAll() mechanism.Facts {
	f := t.Facts()
	f.Everyone = true
	return f
}

// Serves says whether the machine runs Windows.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Windows }

// Take says how well a binding lands in a shell link.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) {
		return mechanism.Offer{}
	}
	if b.Effect.Kind != behaviour.Launches {
		return mechanism.Offer{}
	}
	if b.Effect.Launch().Confirm {
		return mechanism.Offer{Why: reason.LinkNoQuestion.Of()}
	}
	const can = keys.Ctrl | keys.Alt | keys.Shift
	if left := b.Chord.Mods &^ can; left != 0 {
		return mechanism.Offer{Why: reason.LinkModifiers.Of(strings.Join(left.Names(), ", "))}
	}
	vk, ok := virtualKey(m.Layouts[0], b.Chord.Key)
	if !ok {
		return mechanism.Offer{Why: reason.LinkKeys.Of(b.Chord.Key, m.Layouts[0].Name)}
	}
	switch alone := b.Chord.Mods&(keys.Ctrl|keys.Alt) == 0; {
	case vk == 0x7B && b.Chord.Mods == 0:
		return mechanism.Offer{Why: reason.LinkF12.Of()}
	case alone && b.Chord.Key.Section() == keys.Writing:
		return mechanism.Offer{Why: reason.LinkTypes.Of()}
	case alone && (vk&isExtended != 0 || b.Chord.Key.Section() == keys.Numpad && b.Chord.Key.String() != "NumLock"):
		return mechanism.Offer{Why: reason.LinkWantsModifier.Of()}
	}
	c, why := commandOf(b.Effect.Launch())
	switch {
	case why != nil:
		return mechanism.Offer{Why: why}
	case len(utf16.Encode([]rune(c.program))) > mostPath || len(utf16.Encode([]rune(c.dir))) > mostPath:
		return mechanism.Offer{Why: reason.LinkPathLong.Of(mostPath)}
	case len(utf16.Encode([]rune(c.arguments))) > mostArguments:
		return mechanism.Offer{Why: reason.LinkArgumentsLong.Of(mostArguments)}
	}
	why = reason.LinkMayRaise.Of().And(reason.LinkDelay.Of()...)
	if char, ok := altGrCharacter(m.Layouts[0], b.Chord); ok && !m.OwnAltGr {
		why = why.And(reason.LinkAltGr.Of(string(char))...)
	}
	if c.console {
		why = why.And(reason.LinkConsole.Of()...)
	}
	return mechanism.Offer{
		Verdict: mechanism.Limited, Why: why, Plan: plan{c, hotkeyOf(vk, b.Chord.Mods)}, ForAll: b.Everyone && m.Admin,
	}
}

// plan is what a link's fields say, and its hotkey.
type plan struct {
	command command
	hotkey  uint16
}

// hotkeyOf is a link's hotkey: the virtual key, and a bit for each modifier.
func hotkeyOf(vk uint16, mods keys.Mods) uint16 {
	hotkey := vk
	for i, mod := range []keys.Mods{keys.Shift, keys.Ctrl, keys.Alt} {
		if mods.Has(mod) {
			hotkey |= 0x100 << i
		}
	}
	return hotkey
}

const (
	mostPath      = 259   // what a path of Windows has without its end
	mostArguments = 32000 // a command line has 32,767 characters
)

// extended are the keys that Windows tells from those of the numpad by a bit.
var extended = strings.Fields("ArrowLeft ArrowRight ArrowUp ArrowDown Home End PageUp PageDown Insert")

// virtualKey is the virtual key of a key under a layout, and the bit of extended keys, for the keys that a
// hotkey can have: what Explorer's own dialog takes.
func virtualKey(l *keys.Layout, k keys.Key) (code uint16, ok bool) {
	vk, ok := l.VirtualCode(k)
	name := k.String()
	switch {
	case slices.Contains(extended, name):
		return uint16(vk) | isExtended, ok
	case k.Section() == keys.Writing, name == "NumLock", name == "ScrollLock":
		return uint16(vk), ok
	case vk >= 0x70 && vk <= 0x87, vk >= 0x60 && vk <= 0x69:
		return uint16(vk), ok
	}
	return 0, false
}

// isExtended is the bit of a hotkey that has an extended key. (HOTKEYF_EXT of commctrl.h)
const isExtended = 0x800

// altGrCharacter is the character that the chord takes from AltGr. Of a layout that is XKB's, only
// those count that Windows layouts have there, too.
func altGrCharacter(l *keys.Layout, c keys.Chord) (rune, bool) {
	level := 2
	switch c.Mods {
	case keys.Ctrl | keys.Alt:
	case keys.Ctrl | keys.Alt | keys.Shift:
		level = 3
	default:
		return 0, false
	}
	s, ok := l.Symbols(c.Key)
	if !ok || level >= len(s.Level) {
		return 0, false
	}
	r, ok := keys.KeysymRune(s.Level[level])
	return r, ok && (l.VirtualKey(c.Key) != "" || r < 0x80 || strings.ContainsRune("€£²³µ", r))
}

// command is what a link's fields say.
type command struct {
	program   string // a whole path, which may begin with %VARIABLE%
	arguments string
	dir       string
	url       string // an internet shortcut's address, and then nothing else
	console   bool   // goes through the command interpreter
}

const interpreter = `C:\Windows\System32\cmd.exe`

// commandOf makes a link's fields of a launch, or says why it cannot.
func commandOf(l behaviour.Launch) (command, reason.List) {
	words := l.Command
	if l.Open != "" {
		if strings.ContainsFunc(l.Open, func(r rune) bool { return r <= ' ' }) {
			return command{}, reason.LinkAddressBlank.Of()
		}
		return command{url: l.Open}, nil
	}
	for _, w := range append([]string{l.Dir}, words...) {
		if strings.ContainsFunc(w, func(r rune) bool { return r < ' ' && r != '\t' && r != '\n' && r != '\r' }) {
			return command{}, reason.LinkControl.Of()
		}
	}
	c := command{program: words[0], dir: l.Dir, arguments: joinArguments(words[1:])}
	if wholePath(c.program) {
		return c, nil
	}
	if strings.ContainsAny(c.program, `\/:*?"<>|`) {
		return command{}, reason.LinkWholePath.Of(c.program)
	}
	for _, w := range words {
		if strings.ContainsAny(w, "%!^&|<>\"\n\r") {
			return command{}, reason.LinkInterpreter.Of(c.program)
		}
	}
	return command{program: interpreter, dir: c.dir, console: true,
		arguments: `/d /c start "" ` + joinArguments(words)}, nil
}

// wholePath says whether a path begins with a drive or a variable.
func wholePath(p string) bool {
	if len(p) > 3 && p[1] == ':' && p[2] == '\\' && (p[0]|0x20 >= 'a' && p[0]|0x20 <= 'z') {
		return true
	}
	return variablePath(p)
}

// variablePath says whether a path begins with %VARIABLE%\.
func variablePath(p string) bool {
	end := strings.Index(p, `%\`)
	return strings.HasPrefix(p, "%") && end > 1
}

// joinArguments quotes arguments so that the C run-time splits them again.
func joinArguments(words []string) string {
	quoted := make([]string, len(words))
	for i, w := range words {
		quoted[i] = quoteArgument(w)
	}
	return strings.Join(quoted, " ")
}

func quoteArgument(w string) string {
	if w != "" && !strings.ContainsAny(w, " \t\n\r\"") {
		return w
	}
	var b strings.Builder
	b.WriteByte('"')
	slashes := 0
	for _, r := range w {
		switch r {
		case '\\':
			slashes++
			continue
		case '"':
			b.WriteString(strings.Repeat(`\`, 2*slashes+1))
		default:
			b.WriteString(strings.Repeat(`\`, slashes))
		}
		slashes = 0
		b.WriteRune(r)
	}
	b.WriteString(strings.Repeat(`\`, 2*slashes))
	b.WriteByte('"')
	return b.String()
}
