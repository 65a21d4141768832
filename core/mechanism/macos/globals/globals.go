// Package globals writes and reads settings of the keyboard that macOS keeps in the preferences of all
// programs: whether a letter that is held offers its accents. Where it does, it does not repeat.
//
// A program reads them when it starts.
//
// Source: the manual page defaults(1); AppKit's release notes of OS X 10.7 for ApplePressAndHoldEnabled.
package globals

import (
	"errors"
	"fmt"
	"io/fs"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// Mechanism is the preferences of all programs.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "globals", Stage: mechanism.Desktop, Evidence: mechanism.Documented,
		Basis: "public documentation; the steps run against stand-ins", When: mechanism.ProgramStart, Takes: "in each program when it is started anew",
	}
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// Take says whether a setting is here.
func (Mechanism) Take(_ *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	held, ok := b.Effect.Value.(behaviour.Truth)
	if b.Option.Kind != behaviour.Accents || !ok {
		return mechanism.Offer{}
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: change.Bool(held)}
}

const compiled = "globals/NSGlobalDomain.plist"

// Write makes the setting.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var changes []change.Change
	for _, b := range list {
		changes = append(changes, change.Setting{
			About: change.About{
				Serves: []string{b.Press()}, In: compiled,
				Says:   "Say whether a held letter offers its accents; start the programs anew then.",
				Unsays: "Have it as it was; start the programs anew then.",
			},
			Store: change.Defaults, Key: "NSGlobalDomain:ApplePressAndHoldEnabled", To: b.Plan.(change.Bool),
		})
	}
	return mechanism.Changed(changes), nil
}

// Read reads the setting of a machine's folder.
func (Mechanism) Read(_ *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, compiled)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	var domain struct {
		Held *bool `plist:"ApplePressAndHoldEnabled"`
	}
	if _, err := plist.Unmarshal(text, &domain); err != nil {
		return nil, fmt.Errorf("%s: %w", compiled, err)
	}
	if domain.Held == nil {
		return nil, nil
	}
	o := behaviour.Option{Kind: behaviour.Accents}
	return []mechanism.Binding{behaviour.Set(o, behaviour.Truth(*domain.Held))}, nil
}
