package plasma

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"leitstand/core/target"
	"leitstand/core/target/command"
)

// The keeper of the shortcuts has those of all programs that run in memory, and writes
// them over what others have written into its file. So they are set by its interface on the
// session bus, which takes keys by Qt's numbers. (Qt's qnamespace.h; KDE's
// org.kde.KGlobalAccel.xml.)

// qtCodes are Qt's numbers of the keys that type nothing, by its names.
var qtCodes = map[string]int{
	"Esc": 0x01000000, "Tab": 0x01000001, "Backspace": 0x01000003, "Return": 0x01000004, "Ins": 0x01000006, "Del": 0x01000007, "Pause": 0x01000008,
	"Print": 0x01000009, "Home": 0x01000010, "End": 0x01000011, "Left": 0x01000012, "Up": 0x01000013, "Right": 0x01000014, "Down": 0x01000015,
	"PgUp": 0x01000016, "PgDown": 0x01000017, "ScrollLock": 0x01000026, "Menu": 0x01000055, "Space": 0x20,
	"Volume Down": 0x01000070, "Volume Mute": 0x01000071, "Volume Up": 0x01000072,
	"Media Play": 0x01000080, "Media Stop": 0x01000081, "Media Previous": 0x01000082, "Media Next": 0x01000083,
	"Launch (5)": 0x010000A7, "Launch (6)": 0x010000A8, "Launch (7)": 0x010000A9, "Launch (8)": 0x010000AA, "Launch (9)": 0x010000AB, "Launch (A)": 0x010000AC, "Launch (B)": 0x010000AD,
	"Shift": 0x01000020, "Control": 0x01000021, "Meta": 0x01000022, "Alt": 0x01000023, "Tools": 0x010000F1, "Microphone Mute": 0x01000113, "Touchpad Toggle": 0x01000110,
}

// firstFunctionKey is the number of F1; the others follow.
const firstFunctionKey = 0x01000030

// qtModifiers are Qt's numbers of modifiers, which are added to a key's.
var qtModifiers = map[string]int{"Shift+": 0x02000000, "Ctrl+": 0x04000000, "Alt+": 0x08000000, "Meta+": 0x10000000}

// qtCode is Qt's number of a chord as we spell it.
func qtCode(chord string) int {
	code := 0
	for again := true; again; {
		again = false
		for name, n := range qtModifiers {
			if rest, ok := strings.CutPrefix(chord, name); ok && rest != "" {
				chord, code, again = rest, code|n, true
			}
		}
	}
	if n, ok := qtCodes[chord]; ok {
		return code | n
	}
	if number, err := strconv.Atoi(strings.TrimPrefix(chord, "F")); err == nil && len(chord) > 1 && chord[0] == 'F' {
		return code | (firstFunctionKey + number - 1)
	}
	r, _ := utf8.DecodeRuneInString(chord)
	return code | int(r)
}

// tellKeeper is a function of the shell that has the keeper set the keys of an action, by
// its group and its name: none of Plasma's has a quotation mark.
const tellKeeper = `shortcut() { gdbus call --session --dest org.kde.kglobalaccel --object-path /kglobalaccel --method org.kde.KGlobalAccel.setForeignShortcutKeys "['$1', '$2', '', '']" "@a(ai) [$3]" > /dev/null; }`

// shortcutsBack has each action keep the chords that it has when nobody has changed them,
// and the file forget ours.
func (w *writer) shortcutsBack() target.Step {
	var cleared, told, deleted []string
	for _, group := range slices.Sorted(maps.Keys(w.groups)) {
		if w.own(group) {
			for _, within := range []string{"", " --group services"} { // where Plasma 5 keeps it, and 6
				deleted = append(deleted, target.KDEWriter+" --file kglobalshortcutsrc"+within+" --group "+command.Quote(group)+" --key _launch --delete")
			}
			continue
		}
		for _, key := range slices.Sorted(maps.Keys(w.groups[group])) {
			var chords []string
			for _, c := range stock(w.m, group, key) {
				names, _ := spell(w.m, c)
				chords = append(chords, names...)
			}
			first, then := tell(group, key, chords)
			cleared = append(cleared, first)
			if then != "" {
				told = append(told, then)
			}
		}
	}
	var lines []string
	if len(cleared) > 0 {
		lines = slices.Concat([]string{tellKeeper}, cleared, told)
	}
	if len(deleted) > 0 {
		lines = slices.Concat(lines, []string{target.FindKDEWriter}, deleted, []string{"rm ~/.local/share/applications/leitstand-*.desktop"})
	}
	return target.Step{Lines: lines,
		Text: "While you are logged in, have Plasma's own shortcuts as they are when nobody has changed them, and delete what the shortcuts start; then log out and in again."}
}

// forget are the lines that delete what steps have set in files other than that of the
// shortcuts. The names of those settings are single words.
func forget(steps []target.Step) []string {
	var lines []string
	for _, s := range steps {
		for _, l := range s.Lines {
			before, after, ok := strings.Cut(l, " --key ")
			if ok && !strings.Contains(before, " --file kglobalshortcutsrc ") {
				name, _, _ := strings.Cut(after, " ")
				lines = append(lines, before+" --key "+name+" --delete")
			}
		}
	}
	return lines
}

// own says whether a group is that of a desktop file that we write.
func (w *writer) own(group string) bool {
	return slices.ContainsFunc(w.files, func(f target.File) bool { return strings.HasSuffix(f.Path, "/"+group) })
}

// tell gives the lines that have the keeper set the chords of an action: the first one
// takes all from it, since a chord that another action has is not given to a second.
func tell(group, key string, chords []string) (first, then string) {
	first = "shortcut " + command.Quote(group) + " " + command.Quote(key)
	if len(chords) == 0 {
		return first, ""
	}
	var list []string
	for _, c := range chords {
		list = append(list, fmt.Sprintf("([%d, 0, 0, 0],)", qtCode(c)))
	}
	return first, first + " " + command.Quote(strings.Join(list, ", "))
}
