package xfce

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/target"
	"leitstand/core/target/accelerator"
	"leitstand/core/target/command"
)

const channel = "xfce4-keyboard-shortcuts"

// path is the file of a channel below the machine's folder, goes where it belongs.
func (t Target) path(channel string) string {
	if t.Everyone {
		return "xfce/everyone/" + channel + ".xml"
	}
	return "xfce/" + channel + ".xml"
}

func (t Target) goes(channel string) string {
	if t.Everyone {
		return everyone + "/xfce4/xfconf/xfce-perchannel-xml/" + channel + ".xml"
	}
	return "~/.config/xfce4/xfconf/xfce-perchannel-xml/" + channel + ".xml"
}

// everyone is a folder of settings for all users beside /etc/xdg, whose files belong to
// packages.
const everyone = "/etc/leitstand/xdg"

// property is one node of a settings channel.
type property struct {
	Name, Type, Value string
	Locked            bool // for every user
	Values            []value
	Children          []property
}

type value struct{ Type, Value string }

type channelFile struct {
	Name       string
	Version    string
	Properties []property
}

// Apart says that each binding is a value of its own in a store, and stays when others are
// written.
func (Target) Apart() bool { return true }

// Write makes the channel file, and the steps that set the same on a running
// desktop.
func (t Target) Write(m *target.Machine, list []target.Binding) (target.Output, error) {
	list = slices.Clone(list)
	behaviour.Sort(list)
	// Without override, the desktop's defaults replace what stands in a group.
	override := property{Name: "override", Type: "bool", Value: "true"}
	groups := map[string]*property{}
	for _, g := range []string{"commands", "xfwm4"} {
		groups[g] = &property{Name: "custom", Type: "empty", Children: []property{override}}
		if t.Everyone { // where a user's own shortcuts stay beside ours
			groups[g].Children = nil
		}
	}
	var set, back []string
	stock := desktop.Stock(m)
	var had []string // chords on which Xfce has something by itself
	var repeat []property
	for _, b := range list {
		if b.Level == behaviour.Setting {
			repeat = append(repeat, repeatProperty(b))
			continue
		}
		group, value := "xfwm4", actions()[b.Effect.Action]
		if value == "" {
			l := b.Effect.Launch
			switch b.Effect.Kind {
			case behaviour.Acts:
				l.Command = commands[b.Effect.Action]
			case behaviour.Nothing:
				l.Command = []string{"true"}
			}
			line, err := commandLine(l)
			if err != nil {
				return target.Output{}, fmt.Errorf("%s: %w", b.Press(), err)
			}
			group, value = "commands", line
		}
		if slices.ContainsFunc(stock, func(u desktop.Use) bool { return u.Chord.Overlaps(b.Chord) }) {
			had = append(had, b.Chord.String())
		}
		for _, name := range accelerators(m, b.Chord) {
			groups[group].Children = append(groups[group].Children, property{Name: name, Type: "string", Value: value, Locked: t.Everyone})
			if b.Takes { // from the group that may have it now
				other := map[string]string{"commands": "xfwm4", "xfwm4": "commands"}[group]
				set = append(set, fmt.Sprintf("xfconf-query -c %s -p %s -r", channel, command.Quote("/"+other+"/custom/"+name)))
			}
			back = append(back, fmt.Sprintf("xfconf-query -c %s -p %s -r", channel, command.Quote("/"+group+"/custom/"+name)))
			set = append(set, fmt.Sprintf("xfconf-query -c %s -p %s -n -t string -s %s", channel, command.Quote("/"+group+"/custom/"+name), command.Quote(value)))
		}
	}
	var out target.Output
	if len(set) > 0 {
		file := channelFile{Name: channel, Version: "1.0"}
		for _, g := range []string{"commands", "xfwm4"} {
			if n := len(groups[g].Children); n > 1 || n > 0 && (t.Everyone || g == "commands") {
				file.Properties = append(file.Properties, property{Name: g, Type: "empty", Children: []property{*groups[g]}})
			}
		}
		if !t.Everyone {
			file.Properties = append(file.Properties, property{Name: "providers", Type: "array", Values: []value{{"string", "xfwm4"}, {"string", "commands"}}})
		}
		t.add(&out, file)
		out.Steps = append(out.Steps, target.Step{
			Text: "On a running Xfce desktop, set the shortcuts with these commands; they take effect at once. " +
				"(The file `" + t.path(channel) + "` says the same in the store's own form. Do not copy it into place: it would replace your other shortcuts, Xfce's own among them.)",
			Lines: set,
		})
	}
	if len(repeat) > 0 {
		for i := range repeat {
			repeat[i].Locked = t.Everyone
		}
		t.add(&out, channelFile{Name: "keyboards", Version: "1.0", Properties: []property{{Name: "Default", Type: "empty", Children: []property{
			{Name: "KeyRepeat", Type: "empty", Children: repeat}}}}})
		var lines []string
		for _, p := range repeat {
			lines = append(lines, fmt.Sprintf("xfconf-query -c keyboards -p /Default/KeyRepeat/%s -n -t int -s %s", p.Name, p.Value))
			back = append(back, "xfconf-query -c keyboards -p /Default/KeyRepeat/"+p.Name+" -r")
		}
		out.Steps = append(out.Steps, target.Step{Text: "Set how fast keys repeat; it takes effect at once.", Lines: lines})
	}
	if t.Everyone {
		out.Steps, out.Back = stepsForAll(out.Files)
		return out, nil
	}
	out.Back = []target.Step{{Text: "Have the store forget what the commands have set.", Lines: back}}
	if len(had) > 0 {
		out.Back[0].Text += " Xfce had shortcuts of its own on " + strings.Join(had, ", ") + ": set them again in its keyboard settings."
	}
	return out, nil
}

// stepsForAll puts files into the folder for all users, and the folder onto the list of
// those where sessions look.
func stepsForAll(files []target.File) (steps, back []target.Step) {
	const list = "/etc/X11/Xsession.d/55leitstand"
	put := target.Step{
		Text: "As an administrator, put the settings for everyone in place, and the folder onto the list where sessions look (on Debian and its kin; elsewhere where sessions get their environment). " +
			"Users have them when they log in, and cannot change them.",
		Lines: []string{"sudo mkdir -p " + everyone + "/xfce4/xfconf/xfce-perchannel-xml"},
	}
	lift := target.Step{Text: "Delete what was put in place; it counts from the next log-in."}
	gone := "sudo rm " + list
	for _, f := range files {
		put.Lines = append(put.Lines, "sudo cp "+f.Path+" "+f.Goes)
		gone += " " + f.Goes
	}
	put.Lines = append(put.Lines, `echo 'export XDG_CONFIG_DIRS=`+everyone+`:${XDG_CONFIG_DIRS:-/etc/xdg}' | sudo tee `+list)
	lift.Lines = []string{gone}
	return []target.Step{put}, []target.Step{lift}
}

// add puts a channel's file with the others.
func (t Target) add(out *target.Output, file channelFile) {
	var b bytes.Buffer
	b.WriteString(xml.Header)
	open(&b, "", "channel", "name", file.Name, "version", file.Version)
	for _, p := range file.Properties {
		p.write(&b, "\n  ")
	}
	b.WriteString("\n</channel>\n")
	out.Files = append(out.Files, target.File{
		Path: t.path(file.Name), Data: b.Bytes(), Goes: t.goes(file.Name),
	})
}

// write writes a property on lines that begin with a line feed and an indent.
func (p property) write(b *bytes.Buffer, line string) {
	attributes := []string{"name", p.Name, "type", p.Type}
	if p.Value != "" {
		attributes = append(attributes, "value", p.Value)
	}
	if p.Locked { // which counts only beside an exception
		attributes = append(attributes, "locked", "*", "unlocked", "root")
	}
	open(b, line, "property", attributes...)
	for _, v := range p.Values {
		open(b, line+"  ", "value", "type", v.Type, "value", v.Value)
		b.WriteString("</value>")
	}
	for _, c := range p.Children {
		c.write(b, line+"  ")
	}
	if len(p.Values)+len(p.Children) > 0 {
		b.WriteString(line)
	}
	b.WriteString("</property>")
}

// open writes the start of an element with its attributes, each a name and a value.
func open(b *bytes.Buffer, line, element string, attributes ...string) {
	b.WriteString(line)
	b.WriteString("<" + element)
	for i := 0; i < len(attributes); i += 2 {
		b.WriteString(" " + attributes[i] + `="`)
		_ = xml.EscapeText(b, []byte(attributes[i+1])) // a buffer takes everything
		b.WriteByte('"')
	}
	b.WriteByte('>')
}

func repeatProperty(b target.Binding) property {
	if b.Word == "repeat delay" {
		return property{Name: "Delay", Type: "int", Value: fmt.Sprint(b.Effect.Delay())}
	}
	return property{Name: "Rate", Type: "int", Value: fmt.Sprint(b.Effect.Rate())}
}

// accelerators spell a chord as GTK and Xfce do, once for each name of its key.
func accelerators(m *target.Machine, c keys.Chord) []string {
	if c.Key == keys.None {
		return loneNames(c.Mods)
	}
	tags, _ := accelerator.Spell(modTags, c.Mods)
	names, _ := keysyms(m, c)
	for i, n := range names {
		names[i] = tags + n
	}
	return names
}

// commandLine is what starts a launch, as one line of shell words.
func commandLine(l behaviour.Launch) (string, error) {
	words := command.Words(l)
	for _, w := range words {
		// XML forbids most control characters, even as references.
		for _, r := range w {
			if r < ' ' && r != '\t' && r != '\n' && r != '\r' || r == 0xFFFE || r == 0xFFFF {
				return "", fmt.Errorf("Xfce's settings file cannot hold the character U+%04X of the command", r)
			}
		}
	}
	return command.Line(words), nil
}
