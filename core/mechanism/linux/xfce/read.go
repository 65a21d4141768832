package xfce

import (
	"bytes"
	"cmp"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/command"
)

// node is a property of a channel file, as far as reading needs it.
type node struct {
	Name, Version, Type, Value string
	Locked, Unlocked           string
	Items                      []node // the values of an array
	Nodes                      []node // the properties in it
}

// parse reads the element that a channel file is.
func parse(text []byte) (node, error) {
	// From 4.20 on the files say that they are of XML 1.1, which the library does not take; what
	// they hold is the same.
	if rest, ok := bytes.CutPrefix(text, []byte(`<?xml version="1.1"`)); ok {
		text = append([]byte(`<?xml version="1.0"`), rest...)
	}
	d := xml.NewDecoder(bytes.NewReader(text))
	for {
		t, err := d.RawToken()
		if err != nil {
			return node{}, cmp.Or(ended(err), err)
		}
		if start, ok := t.(xml.StartElement); ok {
			return element(d, start, 0)
		}
	}
}

var errEnds = errors.New("the file ends in the middle")

// ended says that a file ends too early, nil for another error.
func ended(err error) error {
	if errors.Is(err, io.EOF) {
		return errEnds
	}
	return nil
}

// deepest is how deep properties lie at most; a channel has four or five levels.
const deepest = 40

// element reads an element behind its start.
func element(d *xml.Decoder, start xml.StartElement, depth int) (node, error) {
	var n node
	if depth > deepest {
		return n, errors.New("properties are nested too deep")
	}
	for _, a := range start.Attr {
		switch a.Name.Local {
		case "name":
			n.Name = a.Value
		case "version":
			n.Version = a.Value
		case "type":
			n.Type = a.Value
		case "value":
			n.Value = a.Value
		case "locked":
			n.Locked = a.Value
		case "unlocked":
			n.Unlocked = a.Value
		}
	}
	for {
		t, err := d.RawToken()
		if err != nil {
			return n, cmp.Or(ended(err), err)
		}
		switch t := t.(type) {
		case xml.EndElement:
			if t.Name != start.Name {
				return n, fmt.Errorf("<%s> is closed by </%s>", start.Name.Local, t.Name.Local)
			}
			return n, nil
		case xml.StartElement:
			inside, err := element(d, t, depth+1)
			if err != nil {
				return n, err
			}
			switch t.Name.Local {
			case "property":
				n.Nodes = append(n.Nodes, inside)
			case "value":
				n.Items = append(n.Items, inside)
			}
		}
	}
}

func (n node) child(name string) node {
	for _, c := range n.Nodes {
		if c.Name == name {
			return c
		}
	}
	return node{}
}

// Read reads the channel files: what chords start and do, and how fast keys repeat.
func (t half) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	dir := "xfce/"
	if t.everyone {
		dir = "xfce/everyone/"
	}
	list, err := t.shortcuts(m, fsys, dir+"xfce4-keyboard-shortcuts.xml")
	if err != nil {
		return nil, err
	}
	settings, err := t.repeats(fsys, dir+"keyboards.xml")
	list = append(list, settings...)
	for i := range list {
		list[i].Everyone = t.everyone
	}
	behaviour.Sort(list)
	return list, err
}

// locked makes sure that what is for everyone is locked, so that it is.
func (t half) locked(file string, p node) error {
	if t.everyone && (p.Locked != "*" || p.Unlocked == "") {
		return fmt.Errorf("%s: %s is not locked, so a user may have it otherwise", file, p.Name)
	}
	return nil
}

// repeats reads the channel keyboards.
func (t half) repeats(fsys fs.FS, file string) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, file)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	root, err := parse(text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	if root.Name != "keyboards" || root.Version != "1.0" {
		return nil, errors.New(file + ": not the channel keyboards of version 1.0")
	}
	var list []mechanism.Binding
	for _, p := range root.child("Default").child("KeyRepeat").Nodes {
		n, err := strconv.Atoi(p.Value)
		b, ok := repeated(p.Name, n)
		if p.Type != "int" || err != nil || n <= 0 || !ok {
			return nil, fmt.Errorf("%s: the property %s is no setting that we know, or no number above 0", file, p.Name)
		}
		if err := t.locked(file, p); err != nil {
			return nil, err
		}
		list = append(list, b)
	}
	if len(list) == 0 || root.child("Default").Type != "empty" ||
		root.child("Default").child("KeyRepeat").Type != "empty" {
		return nil, errors.New(file + ": Default/KeyRepeat is missing, or of another type than empty")
	}
	return list, nil
}

// repeated is a setting of how keys repeat, by Xfce's name.
func repeated(name string, n int) (mechanism.Binding, bool) {
	switch name {
	case "Delay":
		return behaviour.Set(behaviour.Option{Kind: behaviour.RepeatDelay}, behaviour.Milliseconds(n)), true
	case "Rate":
		return behaviour.Set(behaviour.Option{Kind: behaviour.RepeatRate}, behaviour.PerSecond(n)), true
	}
	return mechanism.Binding{}, false
}

func (t half) shortcuts(m *mechanism.Machine, fsys fs.FS, file string) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, file)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	root, err := parse(text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	custom := root.child("commands").child("custom")
	manager := root.child("xfwm4").child("custom")
	if root.Name != "xfce4-keyboard-shortcuts" || root.Version != "1.0" {
		return nil, errors.New(file + ": not the channel xfce4-keyboard-shortcuts of version 1.0")
	}
	if !t.everyone {
		if err := whole(root); err != nil {
			return nil, fmt.Errorf("%s: %w", file, err)
		}
	}
	var found behaviour.Found
	alone := map[string]behaviour.Effect{}
	for i, p := range slices.Concat(custom.Nodes, manager.Nodes) {
		if err := t.locked(file, p); err != nil {
			return nil, err
		}
		if p.Type != "string" {
			if p.Name != "override" {
				return nil, fmt.Errorf("%s: the shortcut %s is of type %q", file, p.Name, p.Type)
			}
			continue
		}
		if desktop.Since(m, whenReleased) && isModifierAlone(p.Name) && i < len(custom.Nodes) {
			alone[p.Name] = effect(p.Value)
			continue
		}
		chords, err := accelerator.ParseTranslated(m.Layouts, p.Name)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", file, err)
		}
		e := effect(p.Value)
		if i >= len(custom.Nodes) {
			e = managed(p.Value)
		}
		// A key may be named once for each layout, and a name may be that of two keys.
		for _, c := range chords {
			found.Add(
				mechanism.Binding{
					Level:      behaviour.Hotkey,
					Chord:      c,
					Effect:     e,
					Provenance: behaviour.AnyOf(chords),
				},
				"starts one thing or another, by the layout in use",
			)
		}
	}
	released(&found, alone)
	return found.List(), nil
}

// isModifierAlone says whether a shortcut is a modifier alone.
func isModifierAlone(name string) bool {
	return slices.ContainsFunc(
		accelerator.ModifierKeys, func(l accelerator.ModifierKey) bool { return slices.Contains(l.Keysyms, name) },
	)
}

// whole says what a user's own file lacks to count as it stands.
func whole(root node) error {
	custom := root.child("commands").child("custom")
	if o := custom.child("override"); o.Type != "bool" || o.Value != "true" {
		return errors.New("commands/custom lacks override=true, without which Xfce takes its defaults instead")
	}
	provided := false
	for _, v := range root.child("providers").Items {
		provided = provided || v.Value == "commands"
	}
	for _, n := range []struct {
		node node
		typ  string
	}{{root.child("commands"), "empty"}, {custom, "empty"}, {root.child("providers"), "array"}} {
		if n.node.Type != n.typ {
			return fmt.Errorf("the property %s is of type %q, not %q", n.node.Name, n.node.Type, n.typ)
		}
	}
	if !provided {
		return errors.New("the channel lacks its provider commands")
	}
	manager := root.child("xfwm4").child("custom")
	if o := manager.child("override"); manager.Name != "" &&
		(o.Type != "bool" || o.Value != "true" || manager.Type != "empty" || root.child("xfwm4").Type != "empty") {
		return errors.New("xfwm4/custom lacks override=true, or is of another type than empty")
	}
	return nil
}

// windowActions are the names that xfwm4 knows, as its defaults spell them.
var windowActions = map[string]string{
	"tile_left_key": "tile-left", "tile_right_key": "tile-right", "tile_up_key": "tile-top",
	"tile_down_key":    "tile-bottom",
	"tile_up_left_key": "tile-top-left", "tile_up_right_key": "tile-top-right",
	"tile_down_left_key": "tile-bottom-left", "tile_down_right_key": "tile-bottom-right",
	"maximize_window_key": "maximize", "hide_window_key": "minimize", "fullscreen_key": "full-screen",
	"close_window_key": "close",
	"move_window_key":  "move", "resize_window_key": "resize", "cycle_windows_key": "next-window",
	"switch_window_key": "next-window-of-app",
	"show_desktop_key":  "show-desktop", "next_workspace_key": "next-workspace",
	"prev_workspace_key":             "previous-workspace",
	"move_window_next_workspace_key": "window-to-next-workspace",
	"move_window_prev_workspace_key": "window-to-previous-workspace",
}

// managed reads an action of the window manager.
func managed(name string) behaviour.Effect {
	if does, ok := windowActions[name]; ok {
		return behaviour.Effect{Kind: behaviour.Acts, Action: does}
	}
	for prefix, does := range map[string]string{"workspace_": "workspace-", "move_window_workspace_": "window-to-workspace-"} {
		number, starts := strings.CutPrefix(name, prefix)
		number, ends := strings.CutSuffix(number, "_key")
		if _, err := strconv.ParseUint(number, 10, 16); starts && ends && err == nil {
			return behaviour.Effect{Kind: behaviour.Acts, Action: does + number}
		}
	}
	return behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("does %q, which xfwm4 does not know", name)}
}

// Does is what a chord does that Xfce has by itself.
func (Mechanism) Does(u desktop.Use) behaviour.Effect {
	if u.Key != "" {
		return managed(u.Key)
	}
	return effect(strings.Join(u.Starts, " "))
}

// effect reads a command line back.
func effect(line string) behaviour.Effect {
	words, err := command.Split(line)
	if err != nil || len(words) == 0 {
		return behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("cannot be started: %q", line)}
	}
	does := map[string]string{
		"xflock4": "lock", "xfce4-session-logout": "log-out", "xfce4-session-logout --suspend": "suspend",
		"xfce4-session-logout --halt": "power-off", "xfce4-session-logout --reboot": "restart",
		"xfce4-popup-applicationsmenu":     "launcher",
		"xfce4-screenshooter --fullscreen": "screenshot", "xfce4-screenshooter --window": "screenshot-window",
		"xfce4-screenshooter --region": "screenshot-area",
	}[strings.Join(words, " ")]
	if does != "" {
		return behaviour.Effect{Kind: behaviour.Acts, Action: does}
	}
	if len(words) == 1 && words[0] == "true" {
		return behaviour.Effect{Kind: behaviour.Nothing}
	}
	return behaviour.Launching(command.Read(words))
}
