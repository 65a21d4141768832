package change

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Command names what a Call to a running program of Linux runs. The words themselves are in the table below and nowhere
// else: what is kept of an installation names a command, so a forged record cannot have anything else run.
type Command struct {
	Name      string   `json:"name"`
	Arguments []string `json:"arguments,omitempty"`
}

// words are what a command runs to make a change and to revert it; nil for nothing.
type words struct{ do, undo []string }

// command is a row of the table.
type command struct {
	// arguments are patterns that the arguments match whole, one for each.
	arguments []*regexp.Regexp
	inTurn    bool
	// keeps: the running program stays changed if the undo command fails, so a failure is reported and retried.
	keeps bool
	words func(arguments []string) words
}

// Keeps reports whether the command's effect lasts if its undo command fails.
func (c Command) Keeps() bool { return commands[c.Name].keeps }

// fixed is a command without arguments.
func fixed(do, undo string) command {
	split := func(line string) []string {
		if line == "" {
			return nil
		}
		return strings.Fields(line)
	}
	return command{words: func([]string) words { return words{split(do), split(undo)} }}
}

// inTurn is a command that is reverted in its turn, before the changes that came before it.
func inTurn(c command) command {
	c.inTurn = true
	return c
}

// shell is a command that is a line of shell.
func shell(line string) []string { return []string{"sh", "-c", line} }

// commands are all that Leitstand runs to notify a running program, or to have one load what was written.
var commands = map[string]command{
	"i3-reload":       fixed("i3-msg reload", "i3-msg reload"),
	"sway-reload":     fixed("swaymsg reload", "swaymsg reload"),
	"kwin-look":       fixed(kwinLook, kwinLook),
	"kde-programs":    {words: func([]string) words { return words{shell(kdePrograms), shell(kdePrograms)} }},
	"dconf-compile":   fixed("dconf update", "dconf update"),
	"hwdb-compile":    fixed("systemd-hwdb update", "systemd-hwdb update"),
	"udev-reload":     fixed("udevadm control --reload", ""),
	"udev-wait":       fixed("sleep 4", ""),
	"udev-trigger":    fixed(udevTrigger, ""),
	"console-units":   inTurn(fixed("systemctl daemon-reload", "")),
	"console-enable":  inTurn(fixed("systemctl enable "+consoleUnit, "systemctl disable "+consoleUnit)),
	"console-restart": inTurn(fixed("systemctl restart "+consoleUnit, "")),
	"hwdb-reset": {
		arguments: []*regexp.Regexp{regexp.MustCompile(
			`(evdev:(input:b[0-9]{4}(v[0-9A-F]{4}p[0-9A-F]{4})?|atkbd:)\*\n| KEYBOARD_KEY_[0-9a-f]+=[a-z0-9_]+\n|\n)*`,
		)},
		words: func(a []string) words { return words{undo: shell(hwdbReset(a[0]))} },
	},
	"keymap-load": {
		arguments: []*regexp.Regexp{
			regexp.MustCompile(`~/\.config/leitstand|/etc/leitstand`), regexp.MustCompile(`keymap\.xkb|load-keymaps`),
		},
		keeps: true,
		words: func(a []string) words {
			load := loadKeymap(a[0] + "/keymap.xkb")
			if a[1] == "load-keymaps" {
				load = "sh " + a[0] + "/load-keymaps"
			}
			return words{shell(keepKeymap + "; " + load), shell(formerKeymap)}
		},
	},
	"sway-boards-forget": {words: func([]string) words {
		return words{shell("rm -f " + swayBoards), shell("rm -f " + swayBoards)}
	}},
	"sway-board": {
		arguments: []*regexp.Regexp{number, number, regexp.MustCompile(`[^/&\\"'\x00-\x1f]*`)},
		words: func(a []string) words {
			return words{do: shell(fmt.Sprintf(
				`swaymsg -t get_inputs -r | sed -n 's/.*"identifier": "\(%s:%s:[^"]*\)".*/input "\1" xkb_options %s/p' `+
					`| sort -u >> `+swayBoards, a[0], a[1], a[2],
			))}
		},
	},
}

var number = regexp.MustCompile(`[0-9]{1,5}`)

const (
	kwinLook    = "dbus-send --session --type=method_call --dest=org.kde.KWin /KWin org.kde.KWin.reconfigure"
	kdePrograms = "{ kbuildsycoca6 || kbuildsycoca5 || true; } > /dev/null 2>&1"
	udevTrigger = "udevadm trigger --settle --subsystem-match=input --action=change"
	consoleUnit = "leitstand-console.service"
	swayBoards  = "~/.config/sway/leitstand-boards"
)

// The X server's keymap is saved before ours is loaded for the first time, and loaded again when ours is reverted. The
// server refuses a keymap with fewer key types than the keys of the current one use (XkbSetMap, BadValue). setxkbmap without
// arguments makes it compile the keymap of its own rules, which always works; if that is the saved one, nothing more is
// loaded. The saved keymap is deleted only when the server has its symbols again, or when a local server is gone.
const (
	inSaved      = `saved=${XDG_STATE_HOME:-$HOME/.local/state}/leitstand/keymap.xkb; `
	keepKeymap   = inSaved + `mkdir -p "${saved%/*}"; [ -e "$saved" ] || xkbcomp -w0 -xkb "$DISPLAY" "$saved"`
	formerKeymap = inSaved + `symbols() { sed -n '/^xkb_symbols/,/^};/p' | tail -n +2; }; ` +
		`has() { [ "$(xkbcomp -w0 -xkb "$DISPLAY" - | symbols)" = "$(symbols < "$saved")" ]; }; ` +
		`n=${DISPLAY##*:}; gone() { [ "${DISPLAY%%:*}" = "" ] && [ -n "$n" ] && ! [ -S "/tmp/.X11-unix/X${n%%.*}" ]; }; ` +
		`if ! [ -e "$saved" ]; then :; elif gone; then rm "$saved"; ` +
		`elif ! xkbcomp -w0 -xkb "$DISPLAY" - > /dev/null; then exit 1; else has || { setxkbmap; has; } || xkbcomp -w0 "$saved" "$DISPLAY"; has && rm "$saved"; fi`
)

// loadKeymap is a line of shell that loads a keymap.
func loadKeymap(file string) string {
	load := "xkbcomp -w0 " + file + ` "$DISPLAY"`
	return load + " 2> /dev/null || { setxkbmap && " + load + "; }"
}

// hwdbReset is a line of shell that has udev set what keys send by themselves, and then what the system's own entries
// say of them. The compiled database is removed where it has no more than the system's own, which it would hide from
// then on, also after updates.
func hwdbReset(entries string) string {
	const at, own = "/etc/udev/hwdb.d/99-leitstand-former.hwdb", "/usr/lib/udev/hwdb.bin"
	const apply = "systemd-hwdb update; udevadm control --reload; sleep 4; " + udevTrigger
	return "printf %s " + ShellWord(entries) + " > " + at + "; " + apply + "; rm -f " + at + "; " + apply +
		"; set -- /etc/udev/hwdb.d/*.hwdb; [ -e \"$1\" ] || [ ! -e " + own + " ] || rm -f /etc/udev/hwdb.bin"
}

// NewCall is a call of a command of the table. It panics where there is no such command, or an argument is none of its.
func NewCall(about About, name string, arguments ...string) Call {
	c, err := findCall(about, Command{name, arguments})
	if err != nil {
		panic(err)
	}
	return c
}

// findCall is the call of a command, which may have been read from a file.
func findCall(about About, c Command) (Call, error) {
	row, ok := commands[c.Name]
	if !ok {
		return Call{}, fmt.Errorf("%s is no command of Leitstand's", strconv.Quote(c.Name))
	}
	if len(c.Arguments) != len(row.arguments) {
		return Call{}, fmt.Errorf("the command %s has %d arguments, not %d", c.Name, len(row.arguments), len(c.Arguments))
	}
	for i, pattern := range row.arguments {
		if at := pattern.FindStringIndex(c.Arguments[i]); at == nil || at[0] != 0 || at[1] != len(c.Arguments[i]) {
			return Call{}, fmt.Errorf("the command %s has no argument %s", c.Name, strconv.Quote(c.Arguments[i]))
		}
	}
	w := row.words(c.Arguments)
	return Call{
		About: about, Command: Command{c.Name, slices.Clone(c.Arguments)}, Do: w.do, Undo: w.undo, InTurn: row.inTurn,
	}, nil
}

// Words are what the command runs, and what reverts it.
func (c Command) Words() (do, undo []string, err error) {
	call, err := findCall(About{}, c)
	return call.Do, call.Undo, err
}
