// Package responses writes and reads how Windows answers a key that is held: FilterKeys, whose settings repeat
// keys to the millisecond.
//
// They are texts in the registry, HKEY_CURRENT_USER\Control Panel\Accessibility\Keyboard Response, numbers in
// decimal: AutoRepeatDelay and AutoRepeatRate, in milliseconds; BounceTime and DelayBeforeAcceptance, which
// are 0 so that no press is left out; and Flags, of which 1 is that they hold, 2 that they are there, and 4
// that Shift held for eight seconds switches them. Both times hold together. They are read at sign-in. Where
// these do not hold, the keyboard's own setting has four delays and 32 rates.
//
// Source: Microsoft, the structure FILTERKEYS of winuser.h, and "Control Panel\Accessibility" in the reference
// of unattended set-up.
package responses

import (
	"errors"
	"fmt"
	"io/fs"
	"strconv"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/regfile"
	"leitstand/core/reason"
)

// Mechanism is FilterKeys.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "responses", Stage: mechanism.Desktop, Evidence: mechanism.Parsed,
		Basis: "Wine's registry editor imported it and gave back the same values",
		When:  mechanism.LogIn, Takes: "at the next sign-in",
	}
}

// Serves says whether the machine runs Windows.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Windows }

const (
	compiled = "responses/leitstand.reg"
	key      = `HKEY_CURRENT_USER\Control Panel\Accessibility\Keyboard Response`
	delay    = "AutoRepeatDelay"
	pause    = "AutoRepeatRate"
	flags    = "Flags"
)

// plan is a value and its name.
type plan struct {
	name string
	ms   int
}

// mostMilliseconds is the longest time that the setting has, and usual what Windows has otherwise.
const (
	mostMilliseconds = 20_000
	usualDelay       = 500
	usualPause       = 33
)

// Take says how well a setting of how keys repeat lands.
func (Mechanism) Take(_ *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	var p plan
	var does behaviour.Effect
	switch b.Option.Kind {
	case behaviour.RepeatDelay:
		p = plan{delay, b.Effect.Delay()}
	case behaviour.RepeatRate:
		p = plan{pause, (1000 + b.Effect.Rate()/2) / b.Effect.Rate()}
		does = behaviour.Set(b.Option, behaviour.PerSecond(int64((1000+p.ms/2)/max(1, p.ms)))).Effect
	default:
		return mechanism.Repeat(b, nil)
	}
	if p.ms < 1 || p.ms > mostMilliseconds {
		return mechanism.Offer{Why: reason.WindowsRepeatRange.Of(mostMilliseconds)}
	}
	o := mechanism.Repeat(b, p)
	if o.Verdict != mechanism.Exact {
		return o
	}
	if p.name == pause && p.ms*b.Effect.Rate() != 1000 {
		o.Why, o.Does = reason.WholeMilliseconds.Of(p.ms), &does
	}
	o.Verdict, o.Why = mechanism.Limited, o.Why.And(reason.WindowsTick.Of(p.ms, inTicks(p.ms))...)
	return o
}

// inTicks is a time in milliseconds as Windows' timers have it: in whole ticks of 1/64 second, at least as long.
func inTicks(ms int) int {
	ticks := (ms*64 + 999) / 1000
	return (ticks*1000 + 32) / 64
}

// Write makes the settings, all of them: with one alone, the other would be as FilterKeys has it at first.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	serves := mechanism.Presses(list)
	to := map[string]int{delay: usualDelay, pause: usualPause, "BounceTime": 0, "DelayBeforeAcceptance": 0, flags: 3}
	for _, b := range list {
		p := b.Plan.(plan)
		to[p.name] = p.ms
	}
	var changes []change.Change
	for _, name := range []string{delay, pause, "BounceTime", "DelayBeforeAcceptance", flags} {
		changes = append(changes, change.Setting{
			About: change.About{
				Serves: serves, In: compiled,
				Says:   "Import how keys repeat. What was there is saved for the way back.",
				Unsays: "Have how keys repeat as it was.",
			},
			Store: change.Registry, Key: key + ":" + name, To: change.Text(strconv.Itoa(to[name])),
		})
	}
	return mechanism.Changed(changes), nil
}

// Read reads the settings of a machine's folder.
func (Mechanism) Read(_ *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	data, err := fs.ReadFile(fsys, compiled)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	list, err := read(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", compiled, err)
	}
	return list, nil
}

// read is how keys repeat by a registry file; nothing where FilterKeys does not hold, or leaves presses out.
func read(data []byte) ([]mechanism.Binding, error) {
	values, err := regfile.Parse(data)
	if err != nil {
		return nil, err
	}
	// What FilterKeys has where nobody has set it; a time after which presses are left out, for what a file does
	// not say.
	of := map[string]int{delay: 1000, pause: 500, "BounceTime": -1, "DelayBeforeAcceptance": 1000}
	for _, v := range values {
		for _, name := range []string{delay, pause, "BounceTime", "DelayBeforeAcceptance", flags} {
			if !v.Is(key, name) || v.Text == nil {
				continue
			}
			if of[name], err = strconv.Atoi(*v.Text); err != nil {
				return nil, fmt.Errorf("%s is no number: %q", name, *v.Text)
			}
		}
	}
	if of[flags]&3 != 3 || of["BounceTime"] != 0 || of["DelayBeforeAcceptance"] != 0 {
		return nil, nil
	}
	var list []mechanism.Binding
	if ms := of[delay]; ms > 0 {
		b := behaviour.Set(behaviour.Option{Kind: behaviour.RepeatDelay}, behaviour.Milliseconds(int64(ms)))
		b.Kept = ms == 500
		list = append(list, b)
	}
	if ms := of[pause]; ms > 0 && ms <= 1000 {
		b := behaviour.Set(behaviour.Option{Kind: behaviour.RepeatRate}, behaviour.PerSecond(int64((1000+ms/2)/ms)))
		b.Kept = ms == 33
		list = append(list, b)
	}
	return list, nil
}

// For is a machine with Windows.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Windows} }

// Knows says whether a registry file has how keys repeat in it.
func (Mechanism) Knows(_ string, text []byte) bool { return regfile.Has(text, delay) }

// Import reads a registry file, as the editor exports it or as people write it.
func (Mechanism) Import(_ *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	list, err := read(text)
	got := mechanism.Imported{Bindings: list}
	if err == nil && len(list) == 0 {
		got.Leave(0, `"`+delay+`"`, "it counts only while FilterKeys is on and leaves no press out: with \"Flags\", "+
			"\"BounceTime\" and \"DelayBeforeAcceptance\"")
	}
	return got, err
}
