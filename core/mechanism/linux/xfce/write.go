package xfce

import (
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/mechanism"
)

const channel = "xfce4-keyboard-shortcuts"

// path is the file of a channel below the machine's folder, goes where it belongs.
func (t half) path(channel string) string {
	if t.everyone {
		return "xfce/everyone/" + channel + ".xml"
	}
	return "xfce/" + channel + ".xml"
}

func (t half) goes(channel string) string {
	if t.everyone {
		return everyone + "/xfce4/xfconf/xfce-perchannel-xml/" + channel + ".xml"
	}
	return "~/.config/xfce4/xfconf/xfce-perchannel-xml/" + channel + ".xml"
}

// everyone is a folder of settings for all users beside /etc/xdg, whose files belong to
// packages.
const everyone = "/etc/leitstand/xdg"

// Write makes the properties of the channels, for everyone as files.
func (t half) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	w := &writer{half: t, groups: map[string][]change.Change{}}
	for _, b := range list {
		to := b.Plan.(plan)
		if to.repeat != "" {
			w.repeat = append(
				w.repeat, w.setting(b, "keyboards", "/Default/KeyRepeat/"+to.repeat, to.value, repeatSays),
			)
			continue
		}
		other := map[string]string{"commands": manager, manager: "commands"}[to.group]
		for _, name := range to.names {
			set := w.setting(b, channel, "/"+to.group+"/custom/"+name, to.value, shortcutsSays)
			set.Sole = to.group == manager
			w.groups[to.group] = append(w.groups[to.group], set)
			if b.Override { // from the group that may have it now
				w.groups[other] = append(
					w.groups[other], w.setting(b, channel, "/"+other+"/custom/"+name, nil, shortcutsSays),
				)
			}
		}
	}
	if t.everyone {
		return mechanism.Changed(w.forAll()), nil
	}
	return mechanism.Changed(w.changes()), nil
}

type writer struct {
	half
	groups map[string][]change.Change // the shortcuts of programs, and those of the window manager
	repeat []change.Change
}

const (
	shortcutsSays = "Set the shortcuts on the running desktop; they take effect at once. What they had is saved, so " +
		"that it can be restored."
	repeatSays = "Set how fast keys repeat; it takes effect at once."
	unsays     = "Have the store as it was."
)

// setting is a property for a press.
func (w *writer) setting(b mechanism.Taken, of, path string, to change.Value, says string) change.Setting {
	return change.Setting{About: change.About{Serves: []string{b.Press()}, In: w.path(of), Says: says, Unsays: unsays},
		Store: change.Xfconf, Key: of + ":" + path, To: to}
}

// changes are the properties, with those without which the store's own form means something
// else: without override, the desktop's defaults replace what stands in a group.
func (w *writer) changes() []change.Change {
	var list []change.Change
	assumed := func(path string, to change.Value) {
		list = append(
			list,
			change.Setting{
				About:   change.About{In: w.path(channel), Says: shortcutsSays, Unsays: unsays},
				Store:   change.Xfconf,
				Key:     channel + ":" + path,
				To:      to,
				Assumed: true,
			},
		)
	}
	if len(w.groups) > 0 {
		for _, g := range []string{"commands", "xfwm4"} {
			if len(w.groups[g]) > 0 || g == "commands" {
				assumed("/"+g+"/custom/override", change.Bool(true))
			}
			list = append(list, w.groups[g]...)
		}
		assumed("/providers", change.Texts{"xfwm4", "commands"})
	}
	return append(list, w.repeat...)
}

// forAll are the files of the channels for everyone, locked, in a folder that is put onto the list
// of those where sessions look; a user's own shortcuts stay beside.
func (w *writer) forAll() []change.Change {
	about := change.About{Everyone: true,
		Says: "As an administrator, put the settings for everyone in place, and the folder onto the list where " +
			"sessions look (on Debian and its kin; elsewhere where sessions get their environment). " +
			"Users have them when they log in, and cannot change them.",
		Unsays: "Delete what was put in place; it counts from the next log-in."}
	var list []change.Change
	var serves []string
	for _, of := range []struct {
		name string
		list []change.Change
	}{{channel, slices.Concat(w.groups["commands"], w.groups["xfwm4"])}, {"keyboards", w.repeat}} {
		if len(of.list) == 0 {
			continue
		}
		file := about
		file.In = w.path(of.name)
		for _, c := range of.list {
			file.Serves = append(file.Serves, c.Note().Serves...)
		}
		serves = append(serves, file.Serves...)
		list = append(list, change.File{About: file, Path: w.goes(of.name), Data: change.Locked(of.list)})
	}
	about.Serves, about.In = serves, "xfce/everyone/55leitstand"
	return append(list, change.File{About: about, Path: "/etc/X11/Xsession.d/55leitstand",
		Data: []byte("export XDG_CONFIG_DIRS=" + everyone + ":${XDG_CONFIG_DIRS:-/etc/xdg}\n")})
}

// repeatName is Xfce's name of how keys repeat, repeatValue its value.
func repeatName(b mechanism.Binding) string {
	return map[behaviour.OptionKind]string{behaviour.RepeatDelay: "Delay", behaviour.RepeatRate: "Rate"}[b.Option.Kind]
}

func repeatValue(b mechanism.Binding) change.Value {
	if b.Option.Kind == behaviour.RepeatDelay {
		return change.Int(b.Effect.Delay())
	}
	return change.Int(b.Effect.Rate())
}
