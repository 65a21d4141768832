package plasma

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// A modifier alone, by either side, is an ordinary shortcut in Plasma 6, called as Qt calls the
// key; in Plasma 5 the window manager has a file of its own for it.

// The window manager's file has what modifiers do when they are pressed alone as a call on the
// session bus: service, path, interface, method and argument.

// aloneNames are the modifiers as that file calls them.
var aloneNames = map[keys.Mods]string{keys.Meta: "Meta", keys.Ctrl: "Control", keys.Alt: "Alt", keys.Shift: "Shift"}

// alone says how well a modifier alone lands.
func alone(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	switch {
	case aloneNames[b.Chord.Mods] == "":
		return mechanism.Offer{Why: reason.PlasmaNothingAlone.Of(b.Chord)}
	case len(b.Then) > 0:
		return mechanism.Offer{Why: reason.NoStrokeByModifier.Of()}
	case b.Effect.Kind == behaviour.Launches && b.Effect.Launch().Confirm && !desktop.Since(m, six):
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.QuestionByZenity.Of()}
	case b.Effect.Kind == behaviour.Acts:
		if _, ok := actions()[b.Effect.Action]; !ok {
			return mechanism.Offer{Why: reason.NoSuchShortcut.Of("Plasma", b.Effect.Action)}
		}
	case b.Effect.Kind != behaviour.Launches && b.Effect.Kind != behaviour.Nothing:
		return mechanism.Offer{}
	}
	return mechanism.Offer{Verdict: mechanism.Exact}
}

// oldAlone is what the window manager's file says of a modifier alone: what an action's shortcut
// does, or that of a program.
func oldAlone(m *mechanism.Machine, b mechanism.Binding) plan {
	to := planOf(m, b)
	to.names, to.alone, to.file, to.key, to.value = nil, true, "kwinrc", "[ModifierOnlyShortcuts]"+aloneNames[b.Chord.Mods], change.Text(
		"",
	)
	if p, ok := actions()[b.Effect.Action]; ok && b.Effect.Kind == behaviour.Acts {
		to.value = change.Text(invoke(p.group, p.key))
	}
	return to
}

// component is a group of shortcuts as the session bus names it.
func component(group string) string {
	return strings.Map(func(r rune) rune {
		if r < 0x80 && (r >= '0' && r <= '9' || r|0x20 >= 'a' && r|0x20 <= 'z') {
			return r
		}
		return '_'
	}, group)
}

// invoke is the call that does what a shortcut does.
func invoke(group, key string) string {
	return "org.kde.kglobalaccel,/component/" + component(
		group,
	) + ",org.kde.kglobalaccel.Component,invokeShortcut," + key
}

// unsigned are the characters of a group that its path on the session bus has not.
var unsigned = mechanism.Pattern(`[^0-9A-Za-z]`)

// aloneShortcut reads what a modifier does alone.
func (r *reader) aloneShortcut(group, name, value string) error {
	b := mechanism.Binding{Level: behaviour.Hotkey, Effect: behaviour.Effect{Kind: behaviour.Nothing}}
	b.Chord.Mods = map[string]keys.Mods{"Meta": keys.Meta, "Control": keys.Ctrl, "Alt": keys.Alt, "Shift": keys.Shift}[name]
	if group != "ModifierOnlyShortcuts" || b.Chord.Mods == 0 {
		return fmt.Errorf("[%s] %s is no modifier alone", group, name)
	}
	if f := strings.Split(value, ","); value != "" {
		b.Effect = behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("calls %q", value)}
		if len(f) == 5 && f[0] == "org.kde.kglobalaccel" && f[2] == "org.kde.kglobalaccel.Component" &&
			f[3] == "invokeShortcut" {
			for _, known := range r.known() {
				if path, ok := strings.CutPrefix(f[1], "/component/"); !ok ||
					path != unsigned().ReplaceAllString(known, "_") {
					continue
				}
				e, err := r.does(known, f[4])
				if err != nil {
					return err
				}
				b.Effect = e
				break
			}
		}
	}
	r.found.Add(b, ambiguous)
	return nil
}

// known are the groups that a call may mean: those of the file of shortcuts, and those
// of the desktop's own actions.
func (r *reader) known() []string {
	list := slices.Clone(r.named)
	for _, name := range slices.Sorted(maps.Keys(does)) {
		group, _, _ := strings.Cut(name, "/")
		list = append(list, group)
	}
	return list
}
