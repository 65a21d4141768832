// Package profile writes and reads preferences of macOS for all users of a machine, as a configuration
// profile.
//
// A profile is a property list, .mobileconfig, that holds payloads. One of the type
// com.apple.ManagedClient.preferences forces keys of domains to values: each key as a whole, so that what a
// user has under it does not count as long as the profile is there. An administrator installs it, by hand in
// the settings or by a device manager; when it is removed, everybody has what they had.
//
// Sources: Apple, "Configuration Profile Reference"; Apple, "Install or remove configuration profiles on Mac".
package profile

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"

	"howett.net/plist"

	"leitstand/core/change"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Preferences are a mechanism whose files are property lists, one for each domain, in a folder of its own.
type Preferences struct {
	Folder string // of the compiled ones
	Own    mechanism.Place
	// Fits says whether XML holds the names and texts of a plan; nil for always.
	Fits func(plan any) bool
}

// Take says how well a binding lands: for everyone in a profile if that is asked for, else in the user's own
// preferences.
func (p Preferences) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	own := p.Own.Take(m, b)
	if !b.Everyone || !m.Admin || own.Verdict < mechanism.Manual {
		return own
	}
	if p.Fits != nil && !p.Fits(own.Plan) {
		own.Why = own.Why.And(reason.MacProfileText.Of()...)
		own.Verdict = min(own.Verdict, mechanism.Limited)
		return own
	}
	all := own
	all.Verdict, all.ForAll = mechanism.Limited, true
	all.Why, all.Else = all.Why.And(reason.MacProfile.Of()...), &own
	return all
}

// Write makes the user's own preferences, or the profile: a profile holds each key as a whole, so that there
// is never both.
func (p Preferences) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	out, err := p.Own.Write(m, list)
	if err != nil || len(list) == 0 || !list[0].ForAll {
		return out, err
	}
	identifier := "leitstand." + p.Folder
	domains := map[string]any{}
	for _, f := range out.Files() {
		var values map[string]any
		if _, err := plist.Unmarshal(f.Data, &values); err != nil {
			return mechanism.Output{}, fmt.Errorf("%s: %w", f.Path, err)
		}
		domains[strings.TrimSuffix(path.Base(f.Path), ".plist")] = map[string]any{
			"Forced": []any{map[string]any{"mcx_preference_settings": values}},
		}
	}
	text, err := plist.MarshalIndent(map[string]any{
		"PayloadType": "Configuration", "PayloadVersion": 1, "PayloadScope": "System",
		"PayloadIdentifier": identifier, "PayloadUUID": uuid(identifier),
		"PayloadDisplayName": "Leitstand: " + p.Folder, "PayloadRemovalDisallowed": false,
		"PayloadContent": []any{map[string]any{
			"PayloadType": kind, "PayloadVersion": 1, "PayloadEnabled": true,
			"PayloadIdentifier": identifier + ".preferences", "PayloadUUID": uuid(identifier + ".preferences"),
			"PayloadContent": domains,
		}},
	}, plist.XMLFormat, "  ")
	if err != nil {
		return mechanism.Output{}, fmt.Errorf("%s: %w", p.Folder+compiled, err)
	}
	about := change.About{
		Serves: mechanism.Presses(
			list,
		), In: p.Folder + compiled, Everyone: true, Says: "Copy the configuration profile.",
		Unsays: "Delete the file.",
	}
	at := "/Library/Application Support/Leitstand/" + p.Folder + ".mobileconfig"
	return mechanism.Changed([]change.Change{
		change.File{About: about, Path: at, Data: append(text, '\n')},
		change.Hand{InTurn: true, About: change.About{
			Serves: about.Serves,
			Says: "Open the profile, and install it in Settings, General, **Device Management** (on macOS 13 and 14 in " +
				"Privacy & Security, **Profiles**), or give it to your device manager; then everybody logs out and in.",
			Unsays: "Remove the profile **Leitstand: " + p.Folder + "** where it was installed.",
		}, Lines: []string{"open '" + at + "'"}},
	}), nil
}

const kind = "com.apple.ManagedClient.preferences"

// compiled is the name of a compiled profile, behind the mechanism's folder.
const compiled = "/everyone.mobileconfig"

// uuid is an identifier of the form of a UUID, the same each time.
func uuid(name string) string {
	sum := sha256.Sum256([]byte(name))
	sum[6], sum[8] = sum[6]&0x0F|0x80, sum[8]&0x3F|0x80 // version 8, of RFC 9562
	return strings.ToUpper(fmt.Sprintf("%x-%x-%x-%x-%x", sum[:4], sum[4:6], sum[6:8], sum[8:10], sum[10:16]))
}

// Read reads the preferences of a machine's folder: the user's own, and under them what a profile forces.
func (p Preferences) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, p.Folder+compiled)
	if errors.Is(err, fs.ErrNotExist) {
		return p.Own.Read(m, fsys)
	} else if err != nil {
		return nil, err
	}
	domains, err := Forced(text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", p.Folder+compiled, err)
	}
	var forced mechanism.Folder
	for _, name := range slices.Sorted(maps.Keys(domains)) {
		values, err := plist.Marshal(domains[name], plist.XMLFormat)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", p.Folder+compiled, err)
		}
		forced = append(forced, mechanism.File{Path: p.Folder + "/" + name + ".plist", Data: values})
	}
	return p.Own.Read(m, forced)
}

// Forced are the values that a profile forces, by their domains.
func Forced(text []byte) (map[string]map[string]any, error) {
	var profile struct {
		Type     string `plist:"PayloadType"`
		Payloads []struct {
			Type    string `plist:"PayloadType"`
			Domains map[string]struct {
				Forced []struct {
					Values map[string]any `plist:"mcx_preference_settings"`
				}
			} `plist:"PayloadContent"`
		} `plist:"PayloadContent"`
	}
	if _, err := plist.Unmarshal(text, &profile); err != nil {
		return nil, err
	}
	if profile.Type != "Configuration" {
		return nil, errors.New("it is no configuration profile")
	}
	found := map[string]map[string]any{}
	for _, payload := range profile.Payloads {
		for name, domain := range payload.Domains {
			for _, f := range domain.Forced {
				if payload.Type == kind && found[name] == nil {
					found[name] = map[string]any{}
				}
				if payload.Type == kind {
					maps.Copy(found[name], f.Values)
				}
			}
		}
	}
	return found, nil
}
