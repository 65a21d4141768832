// Package native writes and reads settings that a mapping passes through: values of a system's or
// desktop's own store, called as the store calls them.
//
// Each store has its own way to call a key:
//
//	GNOME, MATE, Cinnamon   /org/gnome/desktop/interface/clock-show-seconds   a path of dconf
//	Xfce                    xfwm4:/general/click_to_focus                     a channel, and a property in it
//	Plasma                  kwinrc [Windows] FocusPolicy                      a file, its groups, and a key
//	macOS                   com.apple.dock autohide                           a domain, and a key
//	Windows                 HKCU\Control Panel\Keyboard:KeyboardDelay         a key, and the name of a value
//
// A text, a whole number, and true or false are of the store's type for these; dconf has lists of
// texts as well. A type of dconf's or Xfce's that is not one of these stands behind the name:
// "/org/gnome/desktop/peripherals/mouse/speed double" = "0.5". What a store makes of a value is
// its own affair; a value of another type than a program expects is ignored by it.
//
// Sources: the GVariant text format; Xfce's documentation of xfconf-query; KDE's of
// kwriteconfig; the manual page defaults(1) of macOS; Microsoft's documentation of .reg files.
package native

import (
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is one store.
type Mechanism struct{ Store string }

// Stores are those that can be written.
func Stores() []Mechanism {
	return []Mechanism{{change.Dconf}, {change.Xfconf}, {change.KDE}, {change.Defaults}, {change.Registry}}
}

// Facts describes the mechanism.
func (t Mechanism) Facts() mechanism.Facts {
	return map[string]mechanism.Facts{
		change.Dconf: {Name: "native dconf", Stage: mechanism.Desktop, Evidence: mechanism.Parsed,
			Basis: "the schemas of the desktops gave the values back from dconf", When: mechanism.AtOnce, Takes: "at once, when `dconf " +
				"load` has run"},
		change.Xfconf: {Name: "native xfconf", Stage: mechanism.Desktop, Evidence: mechanism.Parsed,
			Basis: "Xfce's store gave the values back", When: mechanism.AtOnce, Takes: "at once"},
		change.KDE: {Name: "native kde", Stage: mechanism.Desktop, Evidence: mechanism.Parsed,
			Basis: "KDE's own program read the values back", When: mechanism.ProgramStart, Takes: "when the program starts again that reads " +
				"the file"},
		change.Defaults: {Name: "native defaults", Stage: mechanism.Desktop, Evidence: mechanism.Documented,
			Basis: "the manual of `defaults`", When: mechanism.ProgramStart, Takes: "when the program starts again that reads it"},
		change.Registry: {Name: "native registry", Stage: mechanism.Desktop, Evidence: mechanism.Parsed,
			Basis: "Wine's registry editor gave the values back", When: mechanism.ProgramStart, Takes: "when the program starts again that reads " +
				"it, often at log-in"},
	}[t.Store]
}

// Serves says whether the machine has the store.
func (t Mechanism) Serves(m *mechanism.Machine) bool {
	return t.Store == storeOf(string(m.System)) ||
		m.System == machine.Linux && m.Session != machine.Console && t.Store == storeOf(m.Desktop)
}

// storeOf is the store of a system or desktop, "" for none.
func storeOf(name string) string {
	return map[string]string{
		"gnome": change.Dconf, "mate": change.Dconf, "cinnamon": change.Dconf, "xfce": change.Xfconf, "plasma": change.KDE,
		string(machine.MacOS): change.Defaults, string(machine.Windows): change.Registry,
	}[name]
}

// Take says whether a setting can be had.
func (t Mechanism) Take(_ *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if b.Option.Kind != behaviour.Native || storeOf(b.Option.For) != t.Store {
		return mechanism.Offer{}
	}
	key, to, err := t.setting(b.Option.Name, b.Effect.Value)
	if err != nil {
		return mechanism.Offer{Why: reason.ValueNotThere.Of(err)}
	}
	a := mechanism.Offer{Verdict: mechanism.Exact, Plan: plan{key, to}}
	if kept := t.kept(to, b.Effect.Value); !reflect.DeepEqual(kept, b.Effect.Value) {
		a.Does = &behaviour.Effect{Kind: behaviour.Sets, Value: kept}
	}
	return a
}

// plan is a key of the store, and its value there.
type plan struct {
	key string
	to  change.Value
}

// kept is a value as the store has it, which may not tell a number from a text.
func (t Mechanism) kept(raw change.Value, v behaviour.Value) behaviour.Value {
	if _, named := raw.(change.Raw); named {
		return numeral(v.String())
	}
	if t.Store != change.KDE {
		return v
	}
	if text := v.String(); text == "true" || text == "false" {
		return behaviour.Truth(text == "true")
	}
	return numeral(v.String())
}

// Write makes the settings.
func (t Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var changes []change.Change
	for _, b := range list {
		p := b.Plan.(plan)
		changes = append(changes, change.Setting{
			About: change.About{
				Serves:   []string{b.Press()},
				In:       t.file(p.key),
				Everyone: t.Store == change.Registry && strings.HasPrefix(p.key, "HKEY_LOCAL_MACHINE"),
				Says: "Set the settings of the system that the mapping passes through. What they were is saved " +
					"for the way back.",
				Unsays: "Have these settings as they were.",
			},
			Store: t.Store, Key: p.key, To: p.to,
		})
	}
	return mechanism.Changed(changes), nil
}

// file is the compiled file of a key: Xfce, KDE and macOS have one for each channel, file or
// domain.
func (t Mechanism) file(key string) string {
	of, _, _ := strings.Cut(key, ":")
	switch t.Store {
	case change.Dconf:
		return "native/settings.dconf"
	case change.Xfconf:
		return "native/" + of + ".xml"
	case change.Defaults:
		return "native/" + of + ".plist"
	case change.Registry:
		return "native/settings.reg"
	}
	return "native/" + of
}

// setting is the key of a store, and the value there, of what a mapping says.
func (t Mechanism) setting(name string, v behaviour.Value) (key string, to change.Value, err error) {
	switch t.Store {
	case change.Dconf:
		return inDconf(name, v)
	case change.Xfconf:
		return inXfconf(name, v)
	case change.KDE:
		return inKDE(name, v)
	case change.Defaults:
		return inDefaults(name, v)
	}
	return inRegistry(name, v)
}

// inDconf is a setting by its path.
func inDconf(name string, v behaviour.Value) (key string, to change.Value, err error) {
	path, typ, _ := strings.Cut(name, " ")
	if change.CheckKey(change.Dconf, path) != nil {
		return "", nil, fmt.Errorf(
			"%q is no path of dconf, such as /org/gnome/desktop/interface/clock-show-seconds",
			name,
		)
	}
	to, err = typed(v, typ, "uint32 int64 uint64 int16 uint16 byte double")
	return path, to, err
}

// inXfconf is a setting by its channel and property.
func inXfconf(name string, v behaviour.Value) (key string, to change.Value, err error) {
	channel, path, ok := strings.Cut(name, ":")
	path, typ, _ := strings.Cut(path, " ")
	if !ok || change.CheckKey(change.Xfconf, channel+":"+path) != nil {
		return "", nil, fmt.Errorf(
			"%q is no channel and property of Xfce's store, such as xfwm4:/general/click_to_focus", name,
		)
	}
	if _, list := v.(behaviour.Words); list {
		return "", nil, fmt.Errorf("not written yet: a list of texts in Xfce's store")
	}
	to, err = typed(v, typ, "uint double")
	return channel + ":" + path, to, err
}

// inKDE is a setting by its file, group and key.
func inKDE(name string, v behaviour.Value) (key string, to change.Value, err error) {
	file, rest, ok := strings.Cut(name, " [")
	end := strings.LastIndex(rest, "] ")
	if !ok || end < 1 || change.CheckKey(change.KDE, file+":["+rest[:end]+"]"+rest[end+2:]) != nil {
		return "", nil, fmt.Errorf("%q is no file, group and key of KDE's, such as kwinrc [Windows] FocusPolicy", name)
	}
	if _, list := v.(behaviour.Words); list {
		return "", nil, fmt.Errorf("KDE's files have texts only: write a list as the program does that reads it")
	}
	if text := v.String(); strings.TrimSpace(text) != text {
		return "", nil, fmt.Errorf("not written yet: a text in KDE's files that begins or ends with a blank")
	}
	to, err = typed(v, "", "")
	return file + ":[" + rest[:end] + "]" + rest[end+2:], to, err
}

// inDefaults is a setting by its domain and key.
func inDefaults(name string, v behaviour.Value) (key string, to change.Value, err error) {
	domain, key, ok := strings.Cut(name, " ")
	if !ok || key == "" || strings.ContainsAny(domain, "/:'\"$`\\\n") || domain == "" ||
		strings.ContainsAny(key, "'\"$`\\\n") {
		return "", nil, fmt.Errorf("%q is no domain and key of macOS, such as com.apple.dock autohide", name)
	}
	to, err = typed(v, "", "")
	return domain + ":" + change.EscapeColons(key), to, err
}

// inRegistry is a value by its key and name.
func inRegistry(name string, v behaviour.Value) (key string, to change.Value, err error) {
	of, value, ok := strings.Cut(name, ":")
	root, rest, _ := strings.Cut(of, `\`)
	long := map[string]string{"HKCU": "HKEY_CURRENT_USER", "HKLM": "HKEY_LOCAL_MACHINE"}[root]
	if !ok || value == "" || rest == "" || long == "" || strings.ContainsAny(name, "\"%\n[]") {
		return "", nil, fmt.Errorf(
			`%q is no value of the registry, such as HKCU\Control Panel\Keyboard:KeyboardDelay`,
			name,
		)
	}
	if strings.ContainsAny(name, "$`^!“”„") {
		return "", nil, fmt.Errorf("not written yet: a name with $, `, ^, ! or typographic quotes, which PowerShell and the " +
			"command prompt do not take alike")
	}
	switch v := v.(type) {
	case behaviour.Word:
		to = change.Text(v)
	case behaviour.Whole:
		if v < 0 || v > 1<<32-1 {
			return "", nil, fmt.Errorf("%d is no DWORD of the registry", v)
		}
		to = change.Unsigned(v)
	default:
		return "", nil, fmt.Errorf("the registry has texts and whole numbers: write 1 for true and 0 for false")
	}
	if strings.ContainsFunc(fmt.Sprint(to), func(r rune) bool { return r < ' ' }) {
		return "", nil, fmt.Errorf("not written yet: a value of the registry with control characters")
	}
	return long + `\` + rest + ":" + value, to, nil
}

// typed is a value of a store, of the type that it has there or of one that is named.
func typed(v behaviour.Value, typ, types string) (change.Value, error) {
	if typ != "" {
		text := v.String()
		_, whole := strconv.ParseInt(text, 10, 64)
		_, number := strconv.ParseFloat(text, 64)
		switch {
		case !slices.Contains(strings.Fields(types), typ):
			return nil, fmt.Errorf(
				"%q is no type of a value here: %s are", typ, strings.Join(strings.Fields(types), ", "),
			)
		case number != nil || typ != "double" && whole != nil || strings.ContainsAny(text, "xXpPiInN_"):
			return nil, fmt.Errorf("%q is no %s", text, typ)
		}
		return change.Raw(typ + " " + text), nil
	}
	switch v := v.(type) {
	case behaviour.Truth:
		return change.Bool(v), nil
	case behaviour.Whole:
		if v < -1<<31 || v > 1<<31-1 {
			return nil, fmt.Errorf("%d has more than 32 bits", v)
		}
		return change.Int(v), nil
	case behaviour.Words:
		return change.Texts(v), nil
	default: // the others are texts here
	}
	text := v.String()
	if strings.ContainsFunc(text, func(r rune) bool { return r < ' ' && r != '\n' && r != '\t' }) {
		return nil, fmt.Errorf("not written yet: a text with control characters")
	}
	return change.Text(text), nil
}
