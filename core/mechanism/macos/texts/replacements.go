package texts

import (
	"errors"
	"fmt"
	"io/fs"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/mechanism"
)

// replacements are text replacements as the preference that a profile forces.
type replacements struct{ list }

const (
	preference = "NSUserDictionaryReplacementItems"
	forced     = "texts/NSGlobalDomain.plist"
)

// Write makes the preference.
func (replacements) Write(_ *mechanism.Machine, taken []mechanism.Taken) (mechanism.Output, error) {
	var items []map[string]any
	for _, b := range taken {
		items = append(items, map[string]any{"on": 1, "replace": b.Word, "with": b.Effect.Text})
	}
	return mechanism.Changed([]change.Change{change.Setting{
		About: change.About{Serves: mechanism.Presses(taken), In: forced}, Store: change.Defaults,
		Key: "NSGlobalDomain:" + preference, To: change.PropertyList(items),
	}}), nil
}

// Read reads the preference.
func (replacements) Read(_ *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, forced)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	var domain struct {
		Items []struct {
			On      any    `plist:"on"`
			Replace string `plist:"replace"`
			With    string `plist:"with"`
		} `plist:"NSUserDictionaryReplacementItems"`
	}
	if _, err := plist.Unmarshal(text, &domain); err != nil {
		return nil, fmt.Errorf("%s: %w", forced, err)
	}
	var found []mechanism.Binding
	for _, of := range domain.Items {
		if of.On == uint64(0) || of.On == false {
			continue
		}
		found = append(found, mechanism.Binding{
			Level: behaviour.Typing, Word: of.Replace, Effect: behaviour.Effect{Kind: behaviour.Types, Text: of.With},
		})
	}
	behaviour.Sort(found)
	return found, nil
}
