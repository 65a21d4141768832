package xkb

import (
	"slices"
	"strings"

	"leitstand/core/change"
	"leitstand/core/intent"
	"leitstand/core/machine"
)

// places are the folders where the files belong, for one user or for all.
type places struct {
	xkb, keymap, autostart string
	quoted                 string // the keymap's folder in the autostart file
}

func placesOf(m *intent.Machine) places {
	if m.LayoutForAll {
		return places{"/etc/xkb", "/etc/leitstand", "/etc/xdg/autostart", "/etc/leitstand"}
	}
	return places{"~/.config/xkb", "~/.config/leitstand", "~/.config/autostart", `\\$HOME/.config/leitstand`}
}

// nameOptions tells those who have options of their own how to keep them.
const nameOptions = " If you use XKB options of your own, name them in the mapping (`options = [\"compose:menu\"]` " +
	"in the machine's block) and compile again."

// placer lists the changes that put the files of a machine in place and have them count.
type placer struct {
	m      *intent.Machine
	at     places
	every  bool             // there is something for every board
	own    []*machine.Board // those that have a layout of their own
	serves []string
	list   []change.Change
}

// about is what is said of a change; in is the file below the machine's folder.
func (p *placer) about(in, says, unsays string) change.About {
	return change.About{Serves: p.serves, In: in, Says: says, Unsays: unsays, Everyone: p.m.LayoutForAll}
}

func (p *placer) add(c ...change.Change) { p.list = append(p.list, c...) }

// Marks around our rules in a file that others may have rules in, too.
const rulesBegin, rulesEnd = "// leitstand begins", "// leitstand ends"

// wayland puts the option where libxkbcommon looks, and switches it on.
func (p *placer) wayland(rules, sections string) {
	const says, unsays = "Put the option where libxkbcommon looks: its rules among those that may be there, and " +
		"its symbols.", "Take the option's rules and symbols out, and log in again."
	p.add(
		change.Block{
			About:  p.about("xkb/rules/evdev", says, unsays),
			Path:   p.at.xkb + "/rules/evdev",
			Begins: rulesBegin,
			Ends:   rulesEnd,
			First:  "// What comes last is on top, so the system's own rules come first.\n\n! include %S/evdev\n\n",
			Text:   rulesBegin + "\n! option = symbols\n" + rules + rulesEnd + "\n",
		},
		change.File{
			About: p.about(symbolsFile, says, unsays),
			Path:  p.at.xkb + "/symbols/leitstand",
			Data:  []byte(sections),
		},
	)
	if p.every {
		p.switchOn(append(slices.Clone(p.m.Options), option))
	}
	if len(p.own) == 0 {
		return
	}
	// Only sway is asked for single boards.
	const told = "Plug the boards in that have keys of their own, and write down for sway which they are."
	p.add(
		change.NewCall(
			p.about("", told, "Forget which boards have keys of their own."), "sway-boards-forget",
		),
	)
	for _, b := range p.own {
		for _, line := range inputs(b, strings.Join(append(slices.Clone(p.m.Options), "leitstand:"+tag(p.m, b.Name)), ",")) {
			p.add(change.NewCall(p.about("", told, ""), "sway-board", line...))
		}
	}
	include := p.line(
		"~/.config/sway/config", "include "+boardsFile, "Have sway's configuration include them, and load it again.",
	)
	include.In, include.From = "sway/config", "/etc/sway/config"
	p.add(include, p.reload())
}

const boardsFile = "~/.config/sway/leitstand-boards"

func (p *placer) line(path, text, says string) change.Line {
	return change.Line{About: p.about("", says, "Take the line out again."), Path: path, Text: text}
}

// reload has sway load its configuration again.
func (p *placer) reload() change.Change {
	about := p.about("", "Have sway load its configuration again.", "Have sway load its configuration again.")
	about.Everyone = false // it is the user's own program
	return change.NewCall(about, "sway-reload")
}

// The files of a compiled folder's view that show what is switched on.
const (
	optionsFile = "xkb/options.dconf"
	kxkbrcFile  = "xkb/kxkbrc"
	optionsKey  = "/org/gnome/desktop/input-sources/xkb-options"
	xdg         = "/etc/leitstand/xdg"
)

// switchOn switches options on where the compositor keeps them.
func (p *placer) switchOn(all []string) {
	switch all := slices.Compact(all); p.m.Desktop {
	case "sway":
		p.switchOnInSway(all)
	case "gnome":
		p.switchOnInGNOME(all)
	case "plasma":
		p.switchOnInPlasma(all)
	default:
		about := p.about(
			"",
			"Switch the option `"+option+"` on where the compositor keeps its XKB options, and log in again."+nameOptions,
			"Switch the option `"+option+"` off there, and log in again.",
		)
		p.add(change.Hand{About: about})
	}
}

// off takes an option out again.
const off = "Switch the option off again."

func (p *placer) switchOnInSway(all []string) {
	const path, from = "~/.config/sway/config", "/etc/sway/config"
	text := "input type:keyboard xkb_options " + strings.Join(all, ",")
	if p.m.LayoutForAll {
		p.add(
			change.File{
				About: p.about(
					"xkb/sway.conf",
					"Switch the option on for every user whose configuration has the line `include /etc/sway/"+
						"config.d/*`.",
					off,
				),
				Path: "/etc/sway/config.d/leitstand-layout.conf",
				Data: []byte(text + "\n"),
			},
			p.reload(),
		)
		return
	}
	says := "Switch the option on in sway's configuration, and load that again."
	if len(p.m.Options) == 0 {
		says += nameOptions
	}
	line := p.line(path, text, says)
	line.In, line.From = "sway/config", from
	p.add(line, p.reload())
}

func (p *placer) switchOnInGNOME(all []string) {
	if !p.m.LayoutForAll {
		for _, o := range all {
			p.add(
				change.Member{
					About: p.about(
						optionsFile, "Switch the option on, beside those that are on; it takes effect at once.", off,
					),
					Store: change.Dconf,
					Key:   optionsKey,
					Item:  o,
				},
			)
		}
		return
	}
	const says = "Switch the option on in the system's database, for every user who has not chosen options; " +
		"they have it when they log in." + nameOptions
	p.add(
		change.File{
			About: p.about("xkb/50-leitstand-layout", says, "Take the option out of the system's database."),
			Path:  "/etc/dconf/db/local.d/50-leitstand-layout",
			Data: []byte(
				"[org/gnome/desktop/input-sources]\nxkb-options=" + change.GVariant(change.Texts(all)) + "\n",
			),
		},
	)
	p.add(change.SystemDconf(p.about("", says, "Compile the system's database again."))...)
}

func (p *placer) switchOnInPlasma(all []string) {
	if p.m.LayoutForAll {
		const says = "Switch the option on for every user who has not chosen options, in a folder of settings " +
			"where Plasma looks; they have it when they log in." + nameOptions
		p.add(change.File{About: p.about("xkb/kxkbrc", says, off), Path: xdg + "/kxkbrc",
			// Else Plasma leaves the options alone.
			Data: []byte("[Layout]\nOptions=" + strings.Join(all, ",") + "\nResetOldOptions=true\n")})
		p.add(change.PlasmaFolder(p.about("xkb/leitstand.sh", says, off)))
		return
	}
	about := p.about(kxkbrcFile, "Switch the option on, beside those that are on, and log in again.", off)
	about.Shown = true
	for _, o := range all {
		p.add(change.Member{About: about, Store: change.KDE, Key: "kxkbrc:[Layout]Options", Item: o, Between: ","})
	}
	p.add(
		change.Setting{
			About: about,
			Store: change.KDE,
			Key:   "kxkbrc:[Layout]ResetOldOptions",
			To:    change.Bool(true),
		},
	)
}

// x11 puts keymaps in place, by their names, and has them loaded now and at log-in.
func (p *placer) x11(keymaps map[string][]byte, loader string) {
	says := "Copy the keymap and what loads it at log-in. (An X11 session only.)"
	unsays := "Delete the keymap and what loads it, and log in again."
	if p.m.Desktop == "i3" {
		says, unsays = "Copy the keymap. (An X11 session only.)", "Delete the keymap, and log in again."
	}
	load, where, start := "xkbcomp -w0 "+p.at.keymap+"/keymap.xkb", ` "$DISPLAY"`, autostart
	for _, name := range x11Files(p.m, p.every, p.own) {
		data := keymaps[name]
		if name == loaderFile {
			data, load, where, start = []byte(loader), "sh "+p.at.keymap+"/load-keymaps", "", startsLoader
		}
		p.add(
			change.File{
				About: p.about(name, says, unsays),
				Path:  p.at.keymap + strings.TrimPrefix(name, "xkb"),
				Data:  data,
			},
		)
	}
	keep := ""
	if len(p.m.Options) == 0 {
		keep = " The keymap has no XKB options in it." + nameOptions
	}
	if where == "" {
		keep += " A board that is plugged in later has its keymap when it is loaded again. The program xinput must " +
			"be installed."
	}
	if p.m.Desktop == "i3" {
		// i3 starts nothing from the autostart folder by itself.
		path := "~/.config/i3/config"
		says := "Have i3 load it when it starts."
		if p.m.LayoutForAll {
			path, says = "/etc/i3/config", "Have i3 load it when it starts; whoever has a configuration of their "+
				"own needs the line there."
		}
		line := p.line(path, "exec --no-startup-id "+load+strings.ReplaceAll(where, `"`, ""), says)
		if line.In = "xkb/etc-i3-config"; !p.m.LayoutForAll {
			line.In, line.From = "i3/config", "/etc/i3/config"
		}
		p.add(line)
	} else {
		p.add(change.File{About: p.about(startFile, says, unsays), Path: p.at.autostart + "/leitstand-keymap.desktop", Data: []byte(strings.ReplaceAll(start, "FOLDER", p.at.quoted))})
	}
	about := p.about(
		"",
		"Load it now, or log in again. Whatever sets the layout later (`setxkbmap`, a layout panel) takes it away "+
			"until the next log-in."+keep,
		"Load the keymap that was there before.",
	)
	about.Everyone = false // it is the user's own session
	what := "keymap.xkb"
	if where == "" {
		what = "load-keymaps"
	}
	p.add(change.NewCall(about, "keymap-load", p.at.keymap, what))
}

const (
	loaderFile = "xkb/load-keymaps"
	startFile  = "xkb/leitstand-keymap.desktop"
)

// x11Files are the keymaps, and what loads more than one.
func x11Files(m *intent.Machine, every bool, own []*machine.Board) []string {
	if len(own) == 0 {
		return []string{keymapFile}
	}
	files := []string{loaderFile}
	if every {
		files = append(files, keymapFile)
	}
	for _, b := range own {
		files = append(files, "xkb/"+tag(m, b.Name)+".xkb")
	}
	return files
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
