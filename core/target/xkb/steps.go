package xkb

import (
	"slices"
	"strings"

	"leitstand/core/intent"
	"leitstand/core/machine"
	"leitstand/core/target"
)

// places are the folders where the files belong, for one user or for all.
type places struct {
	sudo                   string // before commands that write there
	xkb, keymap, autostart string
	quoted                 string // the keymap's folder in the autostart file
}

func placesOf(m *intent.Machine) places {
	if m.LayoutForAll {
		return places{"sudo ", "/etc/xkb", "/etc/leitstand", "/etc/xdg/autostart", "/etc/leitstand"}
	}
	return places{"", "~/.config/xkb", "~/.config/leitstand", "~/.config/autostart", `\\$HOME/.config/leitstand`}
}

// nameOptions tells those who have options of their own how to keep them.
const nameOptions = "If you use XKB options of your own, name them in the mapping (`options = [\"compose:menu\"]` in the machine's block) and compile again."

func waylandSteps(m *intent.Machine, every bool, own []*machine.Board) []target.Step {
	at := placesOf(m)
	steps := []target.Step{{
		Text:  "Copy the folder `xkb` to `" + at.xkb + "`; if there is one already, add these files to it.",
		Lines: []string{at.sudo + "mkdir -p " + at.xkb + " && " + at.sudo + "cp -r xkb/rules xkb/symbols " + at.xkb + "/"},
	}}
	all := append(slices.Clone(m.Options), option)
	keep := ""
	if len(m.Options) == 0 {
		keep = " " + nameOptions
	}
	who := "on"
	if m.LayoutForAll {
		who = "on for every user"
	}
	switchOn := target.Step{Text: "Switch the option `" + option + "` " + who + " where the compositor keeps its XKB options, and log in again." + keep}
	switch m.Desktop {
	case "sway":
		file, included := "~/.config/sway/config", ""
		if m.LayoutForAll {
			file, included = "/etc/sway/config.d/leitstand-layout.conf", ", which a user's own configuration must include"
		}
		switchOn = target.Step{Text: "Add this line to `" + file + "`" + included + ", then reload sway." + keep, Lines: []string{"input type:keyboard xkb_options " + strings.Join(all, ",")}}
	case "gnome":
		value := "['" + strings.Join(all, "', '") + "']"
		switchOn = target.Step{Text: "Switch the option on; it takes effect at once." + keep,
			Lines: []string{"gsettings set org.gnome.desktop.input-sources xkb-options \"" + value + "\""}}
		if m.LayoutForAll {
			switchOn = target.Step{Text: "Switch the option on in the system's database, for every user who has not chosen options; they have it when they log in." + keep,
				Lines: []string{
					"sudo mkdir -p /etc/dconf/db/local.d /etc/dconf/profile",
					"printf '[org/gnome/desktop/input-sources]\\nxkb-options=%s\\n' \"" + value + "\" | sudo tee /etc/dconf/db/local.d/50-leitstand-layout",
					"test -e /etc/dconf/profile/user || printf 'user-db:user\\nsystem-db:local\\n' | sudo tee /etc/dconf/profile/user",
					"sudo dconf update",
				}}
		}
	case "plasma":
		switchOn = target.Step{Text: "Switch the option " + who + " and log in again." + keep,
			Lines: []string{target.FindKDEWriter, target.KDEWriter + " --file kxkbrc --group Layout --key Options " + strings.Join(all, ","),
				// Else Plasma leaves the options alone.
				target.KDEWriter + " --file kxkbrc --group Layout --key ResetOldOptions true"}}
		if m.LayoutForAll {
			switchOn.Lines = []string{target.FindKDEWriter, "sudo " + target.KDEWriter + " --file /etc/xdg/kxkbrc --group Layout --key Options " + strings.Join(all, ","),
				"sudo " + target.KDEWriter + " --file /etc/xdg/kxkbrc --group Layout --key ResetOldOptions true"}
		}
	}
	if every {
		steps = append(steps, switchOn)
	}
	if len(own) == 0 {
		return steps
	}
	// Only sway is asked for single boards.
	told := target.Step{Text: "Plug the boards in that have keys of their own, and write down for sway which they are.",
		Lines: []string{"rm -f ~/.config/sway/leitstand-boards"}}
	for _, b := range own {
		told.Lines = append(told.Lines, inputs(m, b, strings.Join(append(slices.Clone(m.Options), "leitstand:"+tag(m, b.Name)), ","))...)
	}
	return append(steps, told, target.Step{Text: "Add this line to `~/.config/sway/config`, once, then reload sway.", Lines: []string{"include ~/.config/sway/leitstand-boards"}})
}

// waylandBack takes the option away again. What else is in the user's folder stays.
func waylandBack(m *intent.Machine, own []*machine.Board) target.Step {
	at := placesOf(m)
	step := target.Step{Text: "Take `" + option + "` out of the XKB options, where the steps have put it. Delete the symbols, and the rules where they have nothing but ours; then log in again.",
		Lines: []string{at.sudo + "rm " + at.xkb + "/symbols/leitstand", "diff -q xkb/rules/evdev " + at.xkb + "/rules/evdev && " + at.sudo + "rm " + at.xkb + "/rules/evdev"}}
	if len(own) > 0 {
		step.Text = "Take our lines out of `~/.config/sway/config`. " + step.Text
		step.Lines = append(step.Lines, "rm ~/.config/sway/leitstand-boards")
	}
	return step
}

// x11Back has nothing load the keymap any more.
func x11Back(m *intent.Machine, every bool, own []*machine.Board) target.Step {
	at := placesOf(m)
	remove := at.sudo + "rm"
	for _, f := range x11Files(m, every, own) {
		remove += " " + at.keymap + strings.TrimPrefix(f, "xkb")
	}
	step := target.Step{Text: "Delete the keymap and what loads it, and log in again.", Lines: []string{remove, at.sudo + "rm " + at.autostart + "/leitstand-keymap.desktop"}}
	if m.Desktop == "i3" {
		step.Text, step.Lines = "Take the line out of i3's configuration, delete the keymap, and log in again.", step.Lines[:1]
	}
	return step
}

// x11Files are the keymaps, and what loads more than one.
func x11Files(m *intent.Machine, every bool, own []*machine.Board) []string {
	if len(own) == 0 {
		return []string{"xkb/keymap.xkb"}
	}
	files := []string{"xkb/load-keymaps"}
	if every {
		files = append(files, "xkb/keymap.xkb")
	}
	for _, b := range own {
		files = append(files, "xkb/"+tag(m, b.Name)+".xkb")
	}
	return files
}

func x11Steps(m *intent.Machine, every bool, own []*machine.Board) []target.Step {
	at := placesOf(m)
	keep := ""
	if len(m.Options) == 0 {
		keep = " The keymap has no XKB options in it. " + nameOptions
	}
	files, load := x11Files(m, every, own), "xkbcomp -w0 "+at.keymap+"/keymap.xkb"
	where := ` "$DISPLAY"`
	if len(own) > 0 {
		load, where = "sh "+at.keymap+"/load-keymaps", ""
		keep += " A board that is plugged in later has its keymap when it is loaded again. The program xinput must be installed."
	}
	steps := []target.Step{{
		Text: "Copy the keymap and what loads it at log-in. (An X11 session only.)",
		Lines: []string{
			at.sudo + "mkdir -p " + at.keymap + " " + at.autostart,
			at.sudo + "cp " + strings.Join(files, " ") + " " + at.keymap + "/",
			at.sudo + "cp xkb/leitstand-keymap.desktop " + at.autostart + "/",
		},
	}, {
		Text:  "Load it now, or log in again. Whatever sets the layout later (`setxkbmap`, a layout panel) takes it away until the next log-in." + keep,
		Lines: []string{load + where},
	}}
	if m.Desktop == "i3" {
		file := "~/.config/i3/config"
		if m.LayoutForAll {
			file = "/etc/i3/config` and of those who have one of their own to `~/.config/i3/config"
		}
		steps[0].Lines = steps[0].Lines[:2]
		steps[0].Lines[0] = at.sudo + "mkdir -p " + at.keymap
		steps = append(steps, target.Step{Text: "i3 starts nothing from the autostart folder by itself: add this line to `" + file + "`.",
			Lines: []string{"exec --no-startup-id " + load + strings.ReplaceAll(where, `"`, "")}})
	}
	return steps
}

// autostart loads the keymap at log-in, out of FOLDER. The Exec line is quoted as the
// Desktop Entry specification asks: backslashes once for the string, once for the
// argument.
const autostart = `[Desktop Entry]
Type=Application
Name=Leitstand keymap
Comment=Loads the keyboard mapping into the X server
Exec=sh -c "exec xkbcomp -w0 \\"FOLDER/keymap.xkb\\" \\"\\$DISPLAY\\""
NoDisplay=true
X-GNOME-Autostart-Phase=Initialization
`

// startsLoader runs the script that loads keymaps, out of FOLDER.
const startsLoader = `[Desktop Entry]
Type=Application
Name=Leitstand keymaps
Comment=Loads the keyboard mapping into the X server
Exec=sh -c "exec sh \\"FOLDER/load-keymaps\\""
NoDisplay=true
X-GNOME-Autostart-Phase=Initialization
`
