package i3

import (
	"bytes"
	"cmp"
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/command"
)

// Write makes the file of bindings.
func (t half) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	w := &writer{Mechanism: t.Mechanism}
	root := &mode{}
	var delay, rate string
	long := 0 // about
	for _, b := range list {
		to := b.Plan.(plan)
		long += 50 * len(to.strokes)
		delay, rate = cmp.Or(to.delay, delay), cmp.Or(to.rate, rate)
		switch {
		case to.perKey != "":
			w.perKey = append(w.perKey, to.perKey)
		case b.Level == behaviour.Hotkey:
			at := root.after(b.Chord, to.strokes[0])
			for i, c := range b.Then {
				at = at.after(c, to.strokes[i+1])
			}
			at.effect, at.does = &b.Effect, to.does
		}
	}
	w.text.Grow(long)
	w.line("# The keyboard mapping. Include it at the end of your configuration, whose own")
	w.line("# bindings of the same chords have to go.")
	w.repeat(delay, rate)
	w.mode(root, "")
	for _, a := range []string{"move", "resize"} {
		if slices.ContainsFunc(list, func(b mechanism.Taken) bool { return b.Effect.Action == a }) {
			w.arrowMode(a)
		}
	}
	return mechanism.Changed(t.changes(mechanism.Presses(list), bytes.Clone(w.text.Bytes()))), nil
}

// changes put the file in place, and have it count.
func (t half) changes(serves []string, text []byte) []change.Change {
	about := func(in, says, unsays string) change.About {
		return change.About{Serves: serves, In: in, Says: says, Unsays: unsays}
	}
	if t.everyone {
		file := about(
			t.path(),
			"As an administrator, put the bindings for everyone in place. A configuration of a user's own must "+
				"have the line `include "+everyone+"/*`.",
			"Delete the file; it counts when sway starts, or loads its configuration again.",
		)
		file.Everyone = true
		return []change.Change{change.File{About: file, Path: t.goes(), Data: text}}
	}
	again := fmt.Sprintf("Have %s load its configuration again.", t.name())
	return []change.Change{
		change.File{
			About: about(t.path(), "Copy the bindings.", "Delete the bindings."),
			Path:  t.goes(),
			Data:  text,
		},
		change.Line{
			About: about(
				t.name()+"/config",
				"Have your configuration include them at its end. (Where you keep it in another file, put the line "+
					"there instead.)",
				"Take the line out of your configuration.",
			),
			Path: "~/.config/" + t.name() + "/config",
			Text: "include " + t.goes(),
			From: "/etc/" + t.name() + "/config",
		},
		change.NewCall(
			about("", again+" Where it then names a duplicate, take that line out of your own configuration.", again),
			t.name()+"-reload",
		),
	}
}

// mode is what strokes do after others.
type mode struct {
	name   string  // "" for what is outside of modes
	order  []*mode // by the next stroke
	stroke keys.Chord
	names  []string // of the stroke that leads here
	effect *behaviour.Effect
	does   string
}

// after is the mode that a stroke leads to; those of sorted presses come one after the other.
func (s *mode) after(c keys.Chord, names []string) *mode {
	if n := len(s.order); n > 0 && s.order[n-1].stroke == c {
		return s.order[n-1]
	}
	next := &mode{stroke: c, names: names}
	s.order = append(s.order, next)
	return next
}

// ownDelay stands before a rate without a delay, since one cannot be left out.
const ownDelay = "# The delay of 660 ms is the X server's own."

type writer struct {
	Mechanism
	text   bytes.Buffer
	perKey []string
}

// line writes a line, of parts.
func (w *writer) line(parts ...string) {
	for _, p := range parts {
		w.text.WriteString(p)
	}
	w.text.WriteByte('\n')
}

// repeat writes how fast keys repeat: the X server is told by its own program.
func (w *writer) repeat(delay, rate string) {
	switch {
	case delay == "" && rate == "":
	case w.Sway:
		w.line("input type:keyboard {")
		if delay != "" {
			w.line("    repeat_delay " + delay)
		}
		if rate != "" {
			w.line("    repeat_rate " + rate)
		}
		w.line("}")
	default:
		if delay == "" {
			w.line(ownDelay)
			delay = "660"
		}
		w.line(strings.TrimSpace("exec_always --no-startup-id xset r rate " + delay + " " + rate))
	}
	for _, l := range w.perKey {
		w.line(l)
	}
}

// escape leaves a mode that does not use it.
var escape = func() keys.Chord {
	k, _ := keys.ByCode("Escape")
	return keys.Chord{Key: k}
}()

// mode writes the bindings of a mode, and behind them the modes they lead to.
func (w *writer) mode(s *mode, indent string) {
	after := ""
	if s.name != "" {
		w.line("mode \"", s.name, "\" {")
		after = "; mode \"default\""
	}
	escapes := false
	for _, next := range s.order {
		does, then := next.does, after
		escapes = escapes || next.stroke == escape
		switch {
		case next.effect == nil:
			next.name = join(s.name, next.stroke)
			does, then = "mode \""+next.name+"\"", ""
		case strings.HasPrefix(does, "mode "): // which leads on
			then = ""
		case strings.Contains(does, "`printf"):
			w.line(indent, "# ", command.Clear(next.effect.Launch()))
		}
		for _, spelled := range next.names {
			w.line(indent, "bindsym ", spelled, " ", does, then)
		}
	}
	if s.name != "" {
		if !escapes {
			w.line(indent, "bindsym Escape mode \"default\"")
		}
		w.line("}")
	}
	for _, next := range s.order {
		if next.effect == nil {
			w.mode(next, "    ")
		}
	}
}

// join names a mode by the strokes that lead to it.
func join(name string, c keys.Chord) string {
	if name == "" {
		return "leitstand " + c.String()
	}
	return name + " " + c.String()
}

// arrowMode writes a mode in which the arrow keys move or resize.
func (w *writer) arrowMode(name string) {
	w.line("mode \"leitstand " + name + "\" {")
	for _, a := range arrows {
		w.line("    bindsym " + a.keysym + " " + map[string]string{"move": a.moves, "resize": a.resizes}[name])
	}
	for _, k := range []string{"Return", "Escape"} {
		w.line("    bindsym " + k + " mode \"default\"")
	}
	w.line("}")
}

// spell names a chord, once for each name of its key.
func (t Mechanism) spell(c keys.Chord, names []string) []string {
	mods, _ := accelerator.Spell(tags, c.Mods)
	switch {
	case c.Key == keys.None:
		spelled := slices.Clone(alone(c.Mods))
		for i := range spelled {
			spelled[i] = releases + spelled[i]
		}
		return spelled
	case c.Key.Section() == keys.Mouse:
		return []string{wordOver + mods + t.button(c.Key)}
	case mods == "" && len(names) == 1:
		return names
	}
	spelled := make([]string, len(names))
	for i, n := range names {
		spelled[i] = mods + n
		if i > 0 && !t.Sway {
			spelled[i] = "Mod2+" + spelled[i] // the numpad's key with NumLock on
		}
	}
	return spelled
}

// does is the command of an effect.
func (t Mechanism) does(e behaviour.Effect) string {
	switch e.Kind {
	case behaviour.Nothing:
		return "nop"
	case behaviour.Acts:
		d, _ := t.action(e.Action)
		return d.command
	default: // what is started
	}
	exec := "exec "
	if !t.Sway {
		exec += "--no-startup-id "
	}
	return exec + t.tame(command.Script(e.Launch()))
}

// tame writes a shell line so that nothing in it means anything to i3 and sway:
// what could is printed by the shell from numbers, character by character. sway
// takes one backslash of two away when it reads a binding.
func (t Mechanism) tame(line string) string {
	const harmless = " -_./:=+@%'&?"
	if !strings.ContainsFunc(line, func(r rune) bool {
		return r < 0x80 && !isWord(r) && !strings.ContainsRune(harmless, r)
	}) && !strings.Contains(line, "  ") {
		return line
	}
	form := `\%03o`
	if t.Sway {
		form = `\\%03o`
	}
	var b strings.Builder
	for i := range len(line) {
		if c := line[i]; isWord(rune(c)) {
			b.WriteByte(c)
		} else {
			fmt.Fprintf(&b, form, c)
		}
	}
	return "eval \"`printf '" + b.String() + "'`\""
}

func isWord(r rune) bool {
	return r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9'
}
