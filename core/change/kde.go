package change

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// A key of KDE is a settings file, the groups in which it stands, each in brackets, and its name:
// kcminputrc:[Keyboard]RepeatRate. A key of Keeper is the group and the name of a shortcut:
// [kwin]Window Close. Its value are the chords as Qt spells them.
//
// The keeper of the shortcuts (kglobalaccel) has those of all programs that run in memory, and
// writes them over what others have written into its file. So they are set by its interface on
// the session bus, which takes keys by Qt's numbers, and in the file for what does not run.
// Desktop files of ours stand in the file only; from Plasma 6 on the keeper moves them to groups
// within [services]. (Qt's qnamespace.h; KDE's org.kde.KGlobalAccel.xml and its documentation of
// KConfig.)

// keptIn is the keeper's file.
const keptIn = "kglobalshortcutsrc"

// split takes a key of KDE or Keeper apart.
func split(key string) (file string, groups []string, name string) {
	file, rest, _ := strings.Cut(key, "[")
	end := strings.LastIndex(rest, "]")
	return strings.TrimSuffix(file, ":"), strings.Split(rest[:max(end, 0)], "]["), rest[end+1:]
}

// keyGroups spells keys of KDE or Keeper as their file does, in their order; words are what the
// keeper calls shortcuts.
func keyGroups(keys []key, words map[string]string, s Store) ([]byte, error) {
	var w strings.Builder
	in := ""
	for _, k := range keys {
		v, err := s.Get(k.store, k.name)
		if err != nil {
			return nil, err
		}
		if v == nil {
			continue
		}
		_, groups, name := split(k.name)
		if head := "[" + strings.Join(groups, "][") + "]\n"; head != in {
			if in != "" {
				w.WriteByte('\n')
			}
			in = head
			w.WriteString(head)
		}
		w.WriteString(name + "=")
		if k.store == Keeper {
			w.WriteString(shortcut(v, `\t`, words[k.name]))
		} else {
			w.WriteString(EscapeKDE(kdeText(v)))
		}
		w.WriteByte('\n')
	}
	return []byte(w.String()), nil
}

// EscapeKDE spells a text for a line of KDE's files, but for blanks at its ends.
func EscapeKDE(text string) string { return kdeEscapes.Replace(text) }

var kdeEscapes = strings.NewReplacer(`\`, `\\`, "\n", `\n`, "\t", `\t`, "\r", `\r`)

// kdeText is a value as KDE's programs take it.
func kdeText(v Value) string {
	switch v := v.(type) {
	case Text:
		return string(v)
	case Raw:
		return string(v)
	case Int:
		return strconv.Itoa(int(v))
	case Bool:
		return strconv.FormatBool(bool(v))
	default:
		panic(fmt.Sprintf("%T is no value of KDE's files", v))
	}
}

// SplitKDE takes a key of KDE or Keeper apart: its settings file, "" for the keeper's; its group, between the outer
// brackets of its line; and its name.
func SplitKDE(key string) (file, group, name string) {
	file, groups, name := split(key)
	return file, strings.Join(groups, "]["), name
}

// AsKept is a value in the type in which a store has it: KDE's files know texts only, and Bytes for a line as it
// stands.
func AsKept(store string, v Value) Value {
	if _, line := v.(Bytes); store != KDE || v == nil || line {
		return v
	}
	return Text(kdeText(v))
}

// shortcut is the value of a shortcut in the keeper's file: its chords, those that it came with,
// which the keeper knows better, and what it is called.
func shortcut(v Value, between, words string) string {
	chords, ok := v.(Texts)
	if !ok {
		panic(fmt.Sprintf("%T is no value of a shortcut", v))
	}
	text := strings.Join(chords, between)
	if text == "" {
		text = "none"
	}
	return text + ",none," + strings.ReplaceAll(words, ",", `\,`)
}

// kdeTools finds the programs that read and write KDE's settings, in Plasma 6 or in 5, and makes
// functions of them: what a key had is kept once, in a file of the same kind. A user's own files
// are read only, not what stands behind them.
var kdeTools = []string{
	`kde=$(command -v kwriteconfig6 || command -v kwriteconfig5); kderead=$(command -v kreadconfig6 || command -v kreadconfig5)`,
	`saved=${XDG_STATE_HOME:-$HOME/.local/state}/leitstand/kde; mkdir -p "${saved%/*}"`,
	`has() { XDG_CONFIG_DIRS=/none "$kderead" "$@"; }`,
	`keep() { [ "$(has --file "$saved" --group "$@" --default unsaved)" != unsaved ] || "$kde" --file "$saved" --group "$@" -- "$(has --file "$@" --default absent)"; }`,
	`put() { value=$1; shift; keep "$@"; "$kde" --file "$@" -- "$value"; }`,
}

// kdeBack has files as they were kept; what was never kept was never set.
const kdeBack = `back() { value=$(has --file "$saved" --group "$@" --default unsaved)
  case $value in unsaved) return;; absent) "$kde" --file "$@" --delete '';; *) "$kde" --file "$@" -- "$value";; esac
  "$kde" --file "$saved" --group "$@" --delete ''; }`

// keeperTools tell the keeper, and keep what it had.
var keeperTools = []string{
	`keeper() { gdbus call --session --dest org.kde.kglobalaccel --object-path /kglobalaccel --method org.kde.KGlobalAccel."$@" 2> /dev/null || true; }`,
	`shortcut() { keeper setForeignShortcutKeys "['$1', '$2', '', '']" "@a(ai) [$3]" > /dev/null; }`,
	`keys() { keeper shortcutKeys "['$1', '$2', '', '']" | sed 's/^(//; s/,)$//; s/^@a(ai) //; s/^\[//; s/\]$//'; }`,
	`kept() { has --file "$saved" --group kglobalaccel --group "$1" --key "$2" --default unsaved; }`,
	`keepKeys() { [ "$(kept "$1" "$2")" != unsaved ] || "$kde" --file "$saved" --group kglobalaccel --group "$1" --key "$2" -- "$(keys "$1" "$2")"; }`,
}

// keeperRegister has the keeper know the shortcut of a desktop file, which it may see a moment after the file is there.
// Without a session it does so when one begins.
const keeperRegister = `register() { id="['$1', '$2', '$1', '$3']"; for wait in 1 1 1 0; do
  [ -n "$(keeper doRegister "$id")" ] || return 0; keeper setShortcutKeys "$id" "[$4]" 6 > /dev/null
  case $(keeper allActionsForComponent "$id") in *"'$2'"*) return;; esac; sleep $wait; done; }`

// keeperBack has the keeper take what it had; with nothing kept but the steps taken, the chords
// that the desktop came with. First all give theirs back: no two can have one.
const keeperBack = `release() { [ "$(kept "$1" "$2")" = unsaved ] || shortcut "$1" "$2"; }
again() { keys=$(kept "$1" "$2"); [ "$keys" != unsaved ] || return 0
  if [ -z "$keys" ] && [ "$(has --file "$saved" --group kglobalshortcutsrc --group "$1" --key "$2" --default unsaved)" = absent ]; then keys=$3; fi
  shortcut "$1" "$2" "$keys"; "$kde" --file "$saved" --group kglobalaccel --group "$1" --key "$2" --delete ''; }`

// at are the words behind a function of the steps that name a key.
func at(k string) string {
	file, groups, name := split(k)
	if file == "" {
		file = keptIn
	}
	for _, g := range groups {
		file += " --group " + ShellWord(g)
	}
	return file + " --key " + ShellWord(name)
}

// kdeSettings set keys of KDE's files, and have them as they were.
func kdeSettings(group []Change) (do, undo []string) {
	do, undo = slices.Clone(kdeTools), slices.Concat(kdeTools[:3], []string{kdeBack})
	for _, c := range group {
		c := c.(Setting)
		do, undo = append(do, "put "+ShellWord(kdeText(c.To))+" "+at(c.Key)), append(undo, "back "+at(c.Key))
	}
	return do, undo
}

// kdeMembers put items into a list that is one text, beside those of others. Taken back it is
// what it was, if nobody else has changed it since; else the items are taken out.
func kdeMembers(group []Change) (do, undo []string) {
	first := group[0].(Member)
	at, match := at(first.Key), ""
	var items []string
	for _, c := range group {
		items = append(items, c.(Member).Item)
		match += " -e " + ShellWord(c.(Member).Item)
	}
	others := `others() { echo "$1" | tr ` + first.Between + ` '\n' | grep -vxF -e ''` + match + ` | tr '\n' ` + first.Between + `; }`
	do = slices.Concat(
		kdeTools,
		[]string{others, `put "$(others "$(has --file ` + at + `)")` + strings.Join(items, first.Between) + `" ` + at},
	)
	undo = slices.Concat(kdeTools[:3], []string{kdeBack, others,
		`old=$(others "$(has --file ` + at + `)"); was=$(has --file "$saved" --group ` + at + ` --default unsaved)`,
		`if [ "$was" != unsaved ] && [ "$(others "${was#absent}")" = "$old" ]; then back ` + at + `; elif [ "$was" != unsaved ]; then "$kde" --file ` + at + ` -- "${old%` + first.Between + `}"; "$kde" --file "$saved" --group ` + at + ` --delete ''; fi`})
	return do, undo
}

// PlasmaFolder puts the folder of settings for all users onto the list where Plasma looks.
func PlasmaFolder(about About) Change {
	return File{About: about, Path: "/etc/xdg/plasma-workspace/env/leitstand.sh",
		Data: []byte("export XDG_CONFIG_DIRS=/etc/leitstand/xdg:${XDG_CONFIG_DIRS:-/etc/xdg}\n")}
}

// shortcuts set chords of the keeper's, and have them as they were.
func shortcuts(group []Change) (do, undo []string) {
	var keep, clear, tell, put, cleared, again, back []string
	for _, c := range group {
		c := c.(Setting)
		_, groups, name := split(c.Key)
		words := ShellWord(groups[0]) + " " + ShellWord(name)
		value := `"$(printf %b ` + ShellWord(
			strings.ReplaceAll(strings.ReplaceAll(shortcut(c.To, "\t", c.Label), `\`, `\\`), "\t", `\t`),
		) + `)"`
		moved := at("[services][" + groups[0] + "]" + name) // by Plasma 6
		if isOurs(groups[0]) {
			put = append(put, `"$kde" --file `+at(c.Key)+" -- "+value)
			chords, _ := c.To.(Texts)
			tell = append(tell, "register "+words+" "+ShellWord(c.Label)+" "+ShellWord(numbers(chords)))
			cleared = append(cleared, forgets(words))
			back = append(back, `"$kde" --file `+at(c.Key)+" --delete ''", `"$kde" --file `+moved+" --delete ''",
				`"$kde" --file `+at("["+groups[0]+"]"+FriendlyName)+" --delete ''")
			continue
		}
		put, back = append(put, "put "+value+" "+at(c.Key)), append(back, "back "+at(c.Key))
		// What the file has is kept before the keeper is told: it writes the file itself, in its own time.
		keep = append(keep, "keepKeys "+words, "keep "+at(c.Key))
		if strings.HasSuffix(groups[0], ".desktop") {
			keep, back = append(keep, "keep "+moved), append(back, "back "+moved)
		}
		clear = append(clear, "shortcut "+words)
		if chords := c.To.(Texts); len(chords) > 0 {
			tell = append(tell, "shortcut "+words+" "+ShellWord(numbers(chords)))
		}
		stock, _ := c.Default.(Texts)
		cleared = append(cleared, "release "+words)
		again = append(again, "again "+words+" "+ShellWord(numbers(stock)))
	}
	tools, lift := slices.Clone(kdeTools), slices.Concat(kdeTools[:3], []string{kdeBack})
	registers := slices.ContainsFunc(tell, func(l string) bool { return strings.HasPrefix(l, "register ") })
	if registers && len(keep) == 0 {
		tools = append(tools, keeperTools[0])
	}
	if len(keep) == 0 {
		lift = append(lift, keeperTools[0])
	} else {
		tools, lift = slices.Concat(tools, keeperTools), slices.Concat(lift, keeperTools[:4], []string{keeperBack})
	}
	if registers {
		tools = append(tools, keeperRegister)
	}
	return slices.Concat(tools, keep, clear, tell, put), slices.Concat(lift, cleared, again, back)
}

// numbers are chords as the keeper's interface takes them.
func numbers(chords []string) string {
	var list []string
	for _, c := range chords {
		list = append(list, fmt.Sprintf("([%d, 0, 0, 0],)", QtNumber(c)))
	}
	return strings.Join(list, ", ")
}

// qtNumbers are Qt's numbers of the keys that type nothing, by its names.
var qtNumbers = map[string]int{
	"Esc": 0x01000000, "Tab": 0x01000001, "Backspace": 0x01000003, "Return": 0x01000004, "Ins": 0x01000006,
	"Del": 0x01000007, "Pause": 0x01000008,
	"Print": 0x01000009, "Home": 0x01000010, "End": 0x01000011, "Left": 0x01000012, "Up": 0x01000013,
	"Right": 0x01000014, "Down": 0x01000015,
	"PgUp": 0x01000016, "PgDown": 0x01000017, "ScrollLock": 0x01000026, "Menu": 0x01000055, "Space": 0x20,
	"Volume Down": 0x01000070, "Volume Mute": 0x01000071, "Volume Up": 0x01000072,
	"Media Play": 0x01000080, "Media Stop": 0x01000081, "Media Previous": 0x01000082, "Media Next": 0x01000083,
	"Launch (5)": 0x010000A7, "Launch (6)": 0x010000A8, "Launch (7)": 0x010000A9, "Launch (8)": 0x010000AA,
	"Launch (9)": 0x010000AB,
	"Launch (A)": 0x010000AC, "Launch (B)": 0x010000AD,
	"Shift": 0x01000020, "Control": 0x01000021, "Meta": 0x01000022, "Alt": 0x01000023,
	"Tools": 0x010000F1, "Microphone Mute": 0x01000113, "Touchpad Toggle": 0x01000110,
}

// firstFunctionKey is the number of F1; the others follow.
const firstFunctionKey = 0x01000030

// qtModifiers are Qt's numbers of modifiers, which are added to a key's.
var qtModifiers = map[string]int{"Shift+": 0x02000000, "Ctrl+": 0x04000000, "Alt+": 0x08000000, "Meta+": 0x10000000}

// QtNumber is Qt's number of a chord as Qt spells it.
func QtNumber(chord string) int {
	code := 0
	for again := true; again; {
		again = false
		for name, n := range qtModifiers {
			if rest, ok := strings.CutPrefix(chord, name); ok && rest != "" {
				chord, code, again = rest, code|n, true
			}
		}
	}
	if n, ok := qtNumbers[chord]; ok {
		return code | n
	}
	if number, err := strconv.ParseUint(chord, 0, 32); err == nil && strings.HasPrefix(chord, "0x") {
		return code | int(number)
	}
	if number, err := strconv.Atoi(strings.TrimPrefix(chord, "F")); err == nil && len(chord) > 1 && chord[0] == 'F' {
		return code | (firstFunctionKey + number - 1)
	}
	r, _ := utf8.DecodeRuneInString(chord)
	return code | int(r)
}

// QtNumbers are Qt's numbers of chords that are pressed after one another, parted by a comma and a blank; the keeper
// takes four.
func QtNumbers(chords string) []int32 {
	list := make([]int32, 4)
	for i, c := range strings.SplitN(chords, ", ", 4) {
		list[i] = int32(QtNumber(c)) // the highest bit is no sign, and none has it
	}
	return list
}

// QtChord spells chords that are pressed after one another, by Qt's numbers.
func QtChord(numbers []int32) string {
	var chords []string
	for _, n := range numbers {
		if n != 0 {
			chords = append(chords, qtChord(int(n)))
		}
	}
	return strings.Join(chords, ", ")
}

func qtChord(n int) string {
	text := ""
	for _, modifier := range []string{"Meta+", "Ctrl+", "Alt+", "Shift+"} { // in the order in which Qt spells them
		if n&qtModifiers[modifier] != 0 {
			text += modifier
			n &^= qtModifiers[modifier]
		}
	}
	for name, number := range qtNumbers {
		if number == n {
			return text + name
		}
	}
	if n >= firstFunctionKey && n < firstFunctionKey+35 {
		return text + "F" + strconv.Itoa(n-firstFunctionKey+1)
	}
	if n > ' ' && n <= utf8.MaxRune {
		return text + string(rune(n))
	}
	return text + fmt.Sprintf("0x%08x", n) // a key that has no name here
}

// KeeperRelease has the keeper take the chords of a key away, and forget a key of ours, in lines of shell.
func KeeperRelease(key string) []string {
	_, groups, name := split(key)
	words := ShellWord(groups[0]) + " " + ShellWord(name)
	if isOurs(groups[0]) {
		return []string{keeperTools[0], forgets(words)}
	}
	return []string{keeperTools[0], keeperTools[1], "shortcut " + words + " ''"}
}

// FriendlyName is the key that the keeper adds to a group, with what a person calls it.
const FriendlyName = "_k_friendly_name"

// isOurs says whether a group of the keeper's is that of a desktop file of ours.
func isOurs(group string) bool { return strings.HasPrefix(group, "leitstand-") }

// forgets has the keeper forget a shortcut of ours, which it knows since a log-in: nobody else gets its chord before.
func forgets(words string) string { return "keeper unregister " + words + " > /dev/null" }

// KDELines are the lines of shell that give a key of KDE's files, or a shortcut, its value, or none.
func KDELines(store, key string, v Value, label string) []string {
	lines := []string{kdeTools[0]}
	if store == Keeper {
		_, groups, name := split(key)
		words := ShellWord(groups[0]) + " " + ShellWord(name)
		chords, _ := v.(Texts)
		if !isOurs(groups[0]) {
			lines = append(lines, keeperTools[0], keeperTools[1], "shortcut "+words+" "+ShellWord(numbers(chords)))
		}
		if v != nil {
			text := strings.ReplaceAll(strings.ReplaceAll(shortcut(v, "\t", label), `\`, `\\`), "\t", `\t`)
			return append(lines, `"$kde" --file `+at(key)+` -- "$(printf %b `+ShellWord(text)+`)"`)
		}
		moved := at("[services][" + groups[0] + "]" + name)
		lines = append(lines, `"$kde" --file `+at(key)+" --delete ''", `"$kde" --file `+moved+" --delete ''")
		if isOurs(groups[0]) {
			lines = append(lines, `"$kde" --file `+at("["+groups[0]+"]"+FriendlyName)+" --delete ''")
		}
		return lines
	}
	if v == nil {
		return append(lines, `"$kde" --file `+at(key)+" --delete ''")
	}
	text := ""
	if line, ok := v.(Bytes); ok {
		text = string(line)
	} else {
		text = kdeText(v)
	}
	return append(lines, `"$kde" --file `+at(key)+" -- "+ShellWord(text))
}
