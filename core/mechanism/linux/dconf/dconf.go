// Package dconf writes and reads what GNOME, MATE and Cinnamon keep in their
// settings database: a keyfile of the kind that `dconf load /` merges into the
// settings of a running desktop, where it takes effect at once. A key of the file
// replaces that key and leaves all others alone; the list of GNOME's and Cinnamon's
// own shortcuts is one key, so STEPS.md adds to it by a command instead.
//
// The desktops name a key by its keysym. MATE finds the keys of a keysym once and
// takes those, GNOME and Cinnamon look again when the layout changes. None can tell
// the left modifier from the right one. A command is split into words by GLib's
// shell rules. GNOME and Cinnamon have a list of chords for each of their actions,
// MATE has one chord.
//
// Sources: dconf(1) and GLib's documentation of GKeyFile, of the text format of
// GVariant and of g_shell_parse_argv; the schemas of gsettings-desktop-schemas,
// mutter, gnome-shell, gnome-settings-daemon, marco, mate-settings-daemon and
// cinnamon-desktop.
package dconf

import (
	"fmt"
	"io/fs"
	"math"
	"path"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/command"
	"leitstand/core/reason"
)

// Mechanism is the hotkey stage of one of the three desktops, for the user or for
// everyone on the machine. What is for everyone is a folder of the system's own
// database, which an administrator writes, with locks that keep users from changing
// it.
type Mechanism struct{ Desktop string }

// half is the mechanism in one of its places.
type half struct {
	Mechanism
	everyone bool
}

func (t Mechanism) both() mechanism.Both {
	return mechanism.Both{Own: half{t, false}, All: half{t, true}}
}

// Take says how well a binding lands, for everyone if that is asked for and can be.
func (t Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	return t.both().Take(m, b)
}

// Write makes the settings of the user and those for everyone.
func (t Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	return t.both().Write(m, list)
}

// Read reads the settings of the user and those for everyone.
func (t Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	return t.both().Read(m, fsys)
}

// family is how a desktop differs from the others.
type family struct {
	basis    string
	evidence mechanism.Evidence
	one      bool              // one chord for an action, not a list
	actions  map[string]string // the key of each action
	commands map[string]need   // what programs do
	own      string            // the folder of the user's own shortcuts, each in one of its own
	list     string            // the key that lists them, "" where all count
	listed   string            // how the list spells one: a path, or its last part
	command  string            // the key of a shortcut's command
	repeat   string            // the folder of the repeat settings
	interval bool              // which hold an interval, not a rate
}

// need is a command, and in what it differs.
type need struct {
	words []string
	near  reason.List
}

// Asks says whether the desktop asks before an action.
func (t Mechanism) Asks(_ *mechanism.Machine, name string) bool {
	f := families()[t.Desktop]
	return f.actions[name] != "" || f.commands[name].near.Has(reason.WithoutQuestion) == false
}

// Facts describes the mechanism.
func (t Mechanism) Facts() mechanism.Facts {
	f := families()[t.Desktop]
	return mechanism.Facts{
		Name: t.Desktop, Stage: mechanism.Desktop, Evidence: f.evidence, Basis: f.basis,
		When: mechanism.AtOnce, Takes: "at once, when `dconf load` has run",
	}
}

// FactsForAll describes the mechanism where it is for everyone.
func (t Mechanism) FactsForAll() mechanism.Facts {
	return mechanism.Facts{
		Name: t.Desktop + " for everyone", Stage: mechanism.Desktop, Evidence: mechanism.Parsed, Everyone: true,
		Basis: "dconf compiled the database; the desktops' schemas gave the values back, locked",
		When:  mechanism.LogIn, Takes: "when a user logs in after `dconf update`",
	}
}

// Serves says whether the machine runs this desktop.
func (t Mechanism) Serves(m *mechanism.Machine) bool {
	return m.System == machine.Linux && m.Desktop == t.Desktop && m.Session != "console"
}

func (t half) path() string {
	if t.everyone {
		return "dconf/everyone/" + t.Desktop + ".ini"
	}
	return "dconf/" + t.Desktop + ".ini"
}

// lockFile is where the locks of the system's database stand.
const lockFile = "dconf/everyone/locks"

// prefix is how the shortcuts of the user's own are called: those for everyone have
// another name, so that both can stand side by side.
func (t half) prefix() string {
	if t.everyone {
		return "leitstand-everyone"
	}
	return "leitstand"
}

var tags = []accelerator.Tag{
	{Mod: keys.Hyper, Text: "<Hyper>"}, {Mod: keys.Meta, Text: "<Super>"}, {Mod: keys.Ctrl, Text: "<Control>"},
	{Mod: keys.Alt, Text: "<Alt>"}, {Mod: keys.Shift, Text: "<Shift>"},
}

// real are the modifiers for MATE's own shortcuts, which do not know the others.
var real = []accelerator.Tag{
	{Mod: keys.Hyper, Text: "<Mod3>"}, {Mod: keys.Meta, Text: "<Mod4>"}, {Mod: keys.Ctrl, Text: "<Control>"},
	{Mod: keys.Alt, Text: "<Alt>"}, {Mod: keys.Shift, Text: "<Shift>"},
}

// first names a key by what it gives plain; the desktops find the key by it and
// ignore NumLock from then on.
func first(l *keys.Layout, c keys.Chord) []string {
	names := accelerator.Plain(l, c)
	return names[:min(1, len(names))]
}

// names are the keysyms of a chord's key, how they are spelled, and the layouts
// under which they are looked for. MATE's window manager finds keys once, what starts
// programs there compares the keysym of each press.
func (t Mechanism) names(m *mechanism.Machine, b mechanism.Binding) naming {
	n := naming{layouts: m.Layouts, give: first, finds: accelerator.Plain, tags: tags}
	switch {
	case t.Desktop != "mate":
	case b.Effect.Kind == behaviour.Acts && families()[t.Desktop].actions[b.Effect.Action] != "":
		n.layouts = m.Layouts[:1]
	default:
		n.give, n.finds, n.tags, n.compares = accelerator.Translated, accelerator.Translated, real, true
	}
	return n
}

type naming struct {
	layouts []*keys.Layout
	give    accelerator.Giver // names of a key that are written
	finds   accelerator.Giver // names by which the desktop finds a key: those of the numpad with NumLock on, too
	tags    []accelerator.Tag
	// compares: the keysym of each press is compared.
	compares bool
}

// Calls is the desktop's own name of an action, "" if it has none.
func (t Mechanism) Calls(action string) string {
	return path.Base(families()[t.Desktop].actions[action])
}

// Single says whether the desktop has one chord only for an action.
func (t Mechanism) Single(action string) bool {
	f := families()[t.Desktop]
	return f.one && f.actions[action] != ""
}

// Take says how well a binding lands.
func (t half) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	f := families()[t.Desktop]
	switch {
	case t.everyone && !b.Everyone:
		return mechanism.Offer{}
	case t.everyone && !m.Admin:
		return mechanism.Offer{Why: reason.NoAdministrator.Of("a setting for everyone")}
	}
	if b.Level == behaviour.Setting {
		return f.setting(b)
	}
	if isModifierAlone(b) {
		return t.alone(b)
	}
	if !mechanism.Plain(b) || b.Level != behaviour.Hotkey {
		return mechanism.Offer{}
	}
	to, differs, why, ok := t.does(m, b)
	if !ok {
		return mechanism.Offer{Why: why}
	}
	if why := t.unspelled(m, b, to); why != nil {
		return mechanism.Offer{Why: why}
	}
	var near reason.List
	if to.accels, near, why = t.spell(m, b); why != nil {
		return mechanism.Offer{Why: why}
	}
	differs = differs.And(near...).And(t.met(m, b)...)
	if len(differs) > 0 {
		return mechanism.Offer{Verdict: mechanism.Limited, Why: differs, Plan: to}
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
}

// does is what a chord does by the desktop's settings, in what that differs, and why it cannot be had.
func (t half) does(m *mechanism.Machine, b mechanism.Binding) (to plan, differs, why reason.List, ok bool) {
	f := families()[t.Desktop]
	words := command.Words(b.Effect.Launch())
	switch {
	case b.Effect.Kind == behaviour.Nothing:
		words = []string{"true"}
	case b.Effect.Kind == behaviour.Launches:
		if b.Effect.Launch().Confirm {
			differs = differs.And(reason.QuestionByZenity.Of()...)
		}
	case b.Effect.Kind != behaviour.Acts:
		return to, nil, nil, false
	case f.actions[b.Effect.Action] == "" && f.commands[b.Effect.Action].words == nil:
		return to, nil, reason.NoSuchShortcut.Of(title(t.Desktop), b.Effect.Action), false
	case f.commands[b.Effect.Action].near != nil:
		differs = differs.And(f.commands[b.Effect.Action].near...)
	}
	to.taken = taken(m, b)
	if b.Effect.Kind == behaviour.Acts {
		to.action, words = f.actions[b.Effect.Action], f.commands[b.Effect.Action].words
	}
	to.line = command.Line(words)
	if t.everyone && f.list != "" && f.actions[b.Effect.Action] == "" {
		differs = differs.And(reason.UserMayRemove.Of()...)
	}
	return to, differs, nil, true
}

// unspelled says why the settings cannot hold a command or a chord.
func (t half) unspelled(m *mechanism.Machine, b mechanism.Binding, to plan) reason.List {
	_, left := accelerator.Spell(tags, b.Chord.Mods)
	switch {
	case strings.ContainsRune(to.line, 0):
		return reason.CommandNotHeld.Of("the settings database", "the character U+0000")
	case left != 0:
		return reason.NoSuchModifier.Of(title(t.Desktop)+"'s shortcuts", strings.Join(left.Names(), ", "))
	case b.Chord.Key.Section() == keys.Mouse:
		return reason.OnlyKeysAreShortcuts.Of()
	case b.Chord.Mods.Has(keys.Hyper) && m.Hyper != machine.RealHyper:
		return reason.NoHyperKey.Of()
	}
	return nil
}

// spell spells a chord, once for each name of its key, and says in what it differs or why it has none.
func (t half) spell(m *mechanism.Machine, b mechanism.Binding) (accels []string, near, why reason.List) {
	n := t.names(m, b)
	if n.compares && b.Chord.Key.Section() == keys.Writing &&
		!slices.Equal(n.give(m.Layouts[0], b.Chord), first(m.Layouts[0], b.Chord)) {
		// Tried with every spelling: mate-settings-daemon 1.26 starts nothing.
		return nil, nil, reason.MateShiftSign.Of()
	}
	names, missing := accelerator.Names(n.layouts, b.Chord, n.give)
	if len(names) == 0 {
		return nil, nil, reason.NoKeysymOfItsOwn.Of(b.Chord.Key.String())
	}
	mods, _ := accelerator.Spell(n.tags, b.Chord.Mods)
	for _, name := range names {
		accels = append(accels, mods+name)
	}
	if len(missing) > 0 {
		near = near.And(reason.ByCharacter.Of(title(t.Desktop), strings.Join(missing, ", "), names[0])...)
	} else if k := accelerator.Elsewhere(n.layouts, b.Chord, names[0], n.finds); k != keys.None {
		near = near.And(reason.MayTypeTheSame.Of(title(t.Desktop), k)...)
	}
	return accels, near, nil
}

// met says what the desktop does with the chord, or by which other chord it does the action.
func (t half) met(m *mechanism.Machine, b mechanism.Binding) (differs reason.List) {
	f := families()[t.Desktop]
	own := f.actions[b.Effect.Action]
	for _, u := range desktop.Stock(m) {
		switch {
		case u.Key == "":
		case f.one && b.Effect.Kind == behaviour.Acts && u.Key == own && !u.Chord.Overlaps(b.Chord):
			differs = differs.And(reason.OneChord.Of(title(t.Desktop), u.Chord)...)
		case u.Key != own && u.Chord.Overlaps(b.Chord) && !b.Override && b.Effect.Kind != behaviour.Nothing:
			differs = differs.And(reason.UsedToo.Of(title(t.Desktop), lowered(u.Words))...)
		}
	}
	return differs
}

// plan is the chord as the desktop spells it, once for each name of its key, and what it does: the
// desktop's own action by its key, or a command; or settings.
type plan struct {
	accels []string
	action string
	line   string
	taken  []desktop.Use // what the desktop does with the chord otherwise
	set    map[string]change.Value
}

func lowered(s string) string {
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}

func title(name string) string {
	return map[string]string{"gnome": "GNOME", "mate": "MATE", "cinnamon": "Cinnamon"}[name]
}

// setting says whether a setting can be had, and what it is rounded to.
func (f family) setting(b mechanism.Binding) mechanism.Offer {
	rate := b.Effect.Rate()
	to := plan{set: map[string]change.Value{}}
	switch {
	case b.Option.Kind == behaviour.RepeatDelay:
		to.set[f.repeat+"delay"] = f.number(b.Effect.Delay())
	case f.interval:
		to.set[f.repeat+"repeat-interval"] = f.number(f.between(rate))
	default:
		to.set[f.repeat+"rate"] = f.number(rate)
	}
	if b.Option.Kind != behaviour.RepeatRate || !f.interval || rate*f.between(rate) == 1000 {
		return mechanism.Repeat(b, to)
	}
	ms := f.between(rate)
	kept := int(math.Round(1000 / float64(ms)))
	return mechanism.Offer{
		Verdict: mechanism.Limited, Why: reason.RepeatRounded.Of(ms, fmt.Sprintf("%.1f", 1000/float64(ms))),
		Does: &behaviour.Effect{Kind: behaviour.Sets, Value: behaviour.PerSecond(kept)}, Plan: to,
	}
}

// between is the time between two repeats, in milliseconds.
func (f family) between(rate int) int {
	return max(1, int(math.Round(1000/float64(max(1, rate)))))
}

// number is a whole number: unsigned in the schemas that hold an interval.
func (f family) number(n int) change.Value {
	if f.interval {
		return change.Unsigned(n)
	}
	return change.Int(n)
}

// taken finds what the desktop does with a chord that a binding takes over, by key.
func taken(m *mechanism.Machine, b mechanism.Binding) []desktop.Use {
	if !b.Override && b.Effect.Kind != behaviour.Nothing {
		return nil
	}
	return slices.DeleteFunc(
		slices.Clone(desktop.Stock(m)), func(u desktop.Use) bool { return u.Key == "" || !u.Chord.Overlaps(b.Chord) },
	)
}
