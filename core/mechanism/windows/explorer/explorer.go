// Package explorer writes and reads which chords of its own Explorer leaves alone: those of the Windows key
// with a letter or a digit.
//
// They stand in the registry, HKEY_CURRENT_USER\Software\Microsoft\Windows\CurrentVersion\Explorer\Advanced,
// in the text DisabledHotkeys, as capital letters and digits one after the other; letters that others have put
// there stay. A letter is that of the virtual key, which follows the layout. Explorer reads it when it starts.
// It is Explorer's own chords only: what the kernel or another program has is not among them. The chord of the
// game bar is switched off with the game bar as a whole, by the policy AllowGameDVR, which is an administrator's. Meta with L
// is switched off with all locking, by the policy DisableLockWorkstation: a user has it, and only an administrator writes it.
//
// Source: Microsoft's answers on DisabledHotkeys; public reports for the letters that it works for; Microsoft,
// "ApplicationManagement policies", AllowGameDVR, and "Remove Lock Computer" of the administrative template CtrlAltDel.
package explorer

import (
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/regfile"
	"leitstand/core/reason"
)

// Mechanism is Explorer's own chords.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "explorer", Stage: mechanism.Desktop, Evidence: mechanism.Parsed,
		Basis: "the script that sets it was run by Wine's command interpreter, forth and back",
		When:  mechanism.LogIn, Takes: "when Explorer is started anew, or at the next sign-in",
	}
}

// Serves says whether the machine runs Windows.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Windows }

const (
	compiled = "explorer/leitstand.reg"
	key      = `HKEY_CURRENT_USER\Software\Microsoft\Windows\CurrentVersion\Explorer\Advanced`
	name     = "DisabledHotkeys"
)

// policy is a setting that switches off a chord with all else that its action has, and that only an administrator writes.
type policy struct {
	letter          byte
	file, key, name string
	value           uint
	why             reason.List
	says, unsays    string
}

var policies = []policy{
	{
		'G', "explorer/policies.reg", `HKEY_LOCAL_MACHINE\SOFTWARE\Policies\Microsoft\Windows\GameDVR`, "AllowGameDVR", 0, reason.GameBarOff.Of(),
		"As an administrator, import the policy that switches the game bar off.", "As an administrator, take the policy back.",
	},
	{
		'L', "explorer/locking.reg", `HKEY_CURRENT_USER\Software\Microsoft\Windows\CurrentVersion\Policies\System`,
		"DisableLockWorkstation", 1, reason.LockingOff.Of(),
		"As an administrator, import the policy that switches locking off. It is your account's: where Windows asks for another " +
			"account to open the window, leave this step out, since it would change that account.",
		"As an administrator, in a window of your own account, have locking as it was.",
	},
}

// policyOf is the policy for a letter, nil for none.
func policyOf(letter byte) *policy {
	for i := range policies {
		if policies[i].letter == letter {
			return &policies[i]
		}
	}
	return nil
}

// Take says whether a chord that is switched off is one of Explorer's.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) || b.Level != behaviour.Hotkey || b.Effect.Kind != behaviour.Nothing ||
		b.Chord.Mods != keys.Meta {
		return mechanism.Offer{}
	}
	letter := letterOf(m.Layouts[0], b.Chord.Key)
	uses := desktop.Stock(m)
	at := slices.IndexFunc(uses, func(u desktop.Use) bool { return u.Chord.Overlaps(b.Chord) })
	p := policyOf(letter)
	switch {
	case letter == 0 || at < 0 || uses[at].Fixed && p == nil:
		return mechanism.Offer{}
	case p != nil && !m.Admin:
		return mechanism.Offer{Why: reason.NoAdministrator.Of("a policy")}
	case p != nil:
		return mechanism.Offer{Verdict: mechanism.Limited, Why: p.why, Plan: letter, Frees: uses[at].Fixed}
	}
	return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.ChordFreed.Of(), Plan: letter}
}

// letterOf is the letter or digit of a key's virtual key, 0 for none.
func letterOf(l *keys.Layout, k keys.Key) byte {
	code, ok := l.VirtualCode(k)
	if ok && k.Section() == keys.Writing && (code >= 'A' && code <= 'Z' || code >= '0' && code <= '9') {
		return code
	}
	return 0
}

// Write makes the letters.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var own []mechanism.Taken
	var letters []byte
	var changes []change.Change
	for _, b := range list {
		letter := b.Plan.(byte)
		if p := policyOf(letter); p != nil {
			changes = append(changes, change.Setting{
				About: change.About{Serves: mechanism.Presses([]mechanism.Taken{b}), In: p.file, Everyone: true, Says: p.says, Unsays: p.unsays},
				Store: change.Registry, Key: p.key + ":" + p.name, To: change.Unsigned(p.value),
			})
			continue
		}
		own = append(own, b)
		if !slices.Contains(letters, letter) {
			letters = append(letters, letter)
		}
	}
	if len(own) == 0 {
		return mechanism.Changed(changes), nil
	}
	serves := mechanism.Presses(own)
	return mechanism.Changed(append(changes,
		change.Setting{
			About: change.About{
				Serves: serves, In: compiled,
				Says:   "Have Explorer leave these chords alone, beside those that it leaves alone already.",
				Unsays: "Have Explorer's chords as they were.",
			},
			Store: change.Registry, Key: key + ":" + name, To: change.Text(letters), Merged: change.Letters,
		},
		change.Hand{About: change.About{Serves: serves}, Ends: change.EndsSession},
	)), nil
}

// Read reads the letters of a machine's folder.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	var list []mechanism.Binding
	files := []string{compiled}
	for _, p := range policies {
		files = append(files, p.file)
	}
	for _, name := range files {
		values, err := regfile.Open(fsys, name)
		if err != nil {
			return nil, err
		}
		got := read(m, values)
		if len(got.Left) > 0 {
			return nil, fmt.Errorf("%s: %s: %s", name, got.Left[0].Text, got.Left[0].Why)
		}
		list = append(list, got.Bindings...)
	}
	behaviour.Sort(list)
	return list, nil
}

// read is what the letters and the policy among values switch off.
func read(m *mechanism.Machine, values []regfile.Value) (got mechanism.Imported) {
	for _, v := range values {
		for _, p := range policies {
			if v.Is(p.key, p.name) && v.Number != nil && *v.Number == uint32(p.value) {
				got.Bindings = append(got.Bindings, off(keyOf(m.Layouts[0], rune(p.letter))))
			}
		}
		if !v.Is(key, name) || v.Text == nil {
			continue
		}
		for _, r := range strings.ToUpper(*v.Text) {
			k := keyOf(m.Layouts[0], r)
			if k == keys.None {
				got.Leave(v.Line, fmt.Sprintf("%s %q", name, r), "no key of this machine has that virtual key")
				continue
			}
			got.Bindings = append(got.Bindings, off(k))
		}
	}
	behaviour.Sort(got.Bindings)
	return got
}

// off is Meta with a key, switched off.
func off(k keys.Key) mechanism.Binding {
	return mechanism.Binding{
		Level: behaviour.Hotkey, Chord: keys.Chord{Mods: keys.Meta, Key: k},
		Effect: behaviour.Effect{Kind: behaviour.Nothing},
	}
}

// keyOf is the key whose virtual key is a letter or a digit.
func keyOf(l *keys.Layout, r rune) keys.Key {
	for _, k := range keys.All() {
		if code, ok := l.VirtualCode(k); ok && k.Section() == keys.Writing && rune(code) == r {
			return k
		}
	}
	return keys.None
}

// For is a machine with Windows.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Windows} }

// Knows says whether a registry file has chords that Explorer leaves alone in it.
func (Mechanism) Knows(_ string, text []byte) bool {
	return regfile.Has(text, name) || slices.ContainsFunc(policies, func(p policy) bool { return regfile.Has(text, p.name) })
}

// Import reads a registry file, as the editor exports it or as people write it.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	values, err := regfile.Parse(text)
	if err != nil {
		return mechanism.Imported{}, err
	}
	return read(m, values), nil
}
