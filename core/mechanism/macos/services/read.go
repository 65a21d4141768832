package services

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/command"
	"leitstand/core/mechanism/form/equivalent"
)

// Read reads the quick actions of a machine's folder that have a chord.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	chords, err := chordsOf(fsys)
	if err != nil {
		return nil, err
	}
	entries, err := fs.ReadDir(fsys, "services")
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	off, err := switchedOff(fsys)
	if err != nil {
		return nil, err
	}
	var list []mechanism.Binding
	for _, e := range entries {
		if !e.IsDir() || path.Ext(e.Name()) != ".workflow" {
			continue
		}
		b, ok, err := read(m, fsys, "services/"+e.Name()+"/Contents", chords)
		if err != nil {
			return nil, fmt.Errorf("services/%s: %w", e.Name(), err)
		}
		b.Contested = slices.ContainsFunc(desktop.Numbered(m), func(u desktop.Use) bool {
			return u.Chord.Key != keys.None && u.Chord.Overlaps(b.Chord) && !off[u.Key]
		})
		if ok {
			list = append(list, b)
		}
	}
	behaviour.Sort(list)
	return list, nil
}

// switchedOff are the system's own shortcuts that the quick actions have the chords of.
func switchedOff(fsys fs.FS) (map[string]bool, error) {
	const name = "services/com.apple.symbolichotkeys.plist"
	var domain struct {
		Keys map[string]struct {
			On *bool `plist:"enabled"`
		} `plist:"AppleSymbolicHotKeys"`
	}
	if err := load(fsys, name, &domain); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("services/%w", err)
	}
	off := map[string]bool{}
	for number, k := range domain.Keys {
		off[desktop.NumberedKeys+number] = is(k.On, false)
	}
	return off, nil
}

// chordsOf are the key equivalents of quick actions, by what the menu calls them.
func chordsOf(fsys fs.FS) (map[string]string, error) {
	text, err := fs.ReadFile(fsys, "services/pbs.plist")
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	var domain struct {
		Status map[string]struct {
			Key     string `plist:"key_equivalent"`
			Menu    *bool  `plist:"enabled_services_menu"`
			Context *bool  `plist:"enabled_context_menu"`
			Modes   struct {
				Menu    *bool `plist:"ServicesMenu"`
				Context *bool `plist:"ContextMenu"`
			} `plist:"presentation_modes"`
		} `plist:"NSServicesStatus"`
	}
	if _, err := plist.Unmarshal(text, &domain); err != nil {
		return nil, fmt.Errorf("services/pbs.plist: %w", err)
	}
	chords := map[string]string{}
	for name, s := range domain.Status {
		title, ours := strings.CutPrefix(strings.TrimSuffix(name, " - runWorkflowAsService"), "(null) - ")
		if !ours || !strings.HasSuffix(name, " - runWorkflowAsService") {
			continue
		}
		// Older systems go by the first two, newer ones by the others.
		if is(s.Menu, true) && is(s.Modes.Menu, true) && is(s.Context, false) && is(s.Modes.Context, false) {
			chords[title] = s.Key
		}
	}
	return chords, nil
}

// is says whether a truth value is there, and which it is.
func is(v *bool, want bool) bool { return v != nil && *v == want }

// read reads one quick action.
func read(
	m *mechanism.Machine,
	fsys fs.FS,
	dir string,
	chords map[string]string,
) (b mechanism.Binding, ok bool, err error) {
	var info struct {
		Services []struct {
			Item    map[string]string `plist:"NSMenuItem"`
			Message string            `plist:"NSMessage"`
		} `plist:"NSServices"`
	}
	if err := load(fsys, dir+"/Info.plist", &info); err != nil {
		return b, false, err
	}
	if len(info.Services) != 1 || info.Services[0].Message != "runWorkflowAsService" {
		return b, false, errors.New("Info.plist: no quick action")
	}
	key := chords[info.Services[0].Item["default"]]
	if key == "" {
		return b, false, nil
	}
	line, err := lineOf(fsys, dir)
	if err != nil {
		return b, false, err
	}
	b.Level = behaviour.Hotkey
	if b.Chord, ok = equivalent.Read(m, key); !ok {
		return b, false, fmt.Errorf("no key of this machine has the key equivalent %q", key)
	}
	if l, err := command.ReadMacScript(line); err == nil {
		b.Effect = behaviour.Launching(l)
	} else {
		b.Effect = behaviour.Effect{Kind: behaviour.Other, Words: "runs the line " + line}
	}
	return b, true, nil
}

// lineOf is the line of shell that a workflow runs.
func lineOf(fsys fs.FS, dir string) (string, error) {
	var document struct {
		Version string `plist:"AMDocumentVersion"`
		Actions []struct {
			Action struct {
				Path       string `plist:"ActionBundlePath"`
				Identifier string `plist:"BundleIdentifier"`
				Class      string `plist:"Class Name"`
				Parameters struct {
					Line        string `plist:"COMMAND_STRING"`
					Shell       string `plist:"shell"`
					InputMethod int    `plist:"inputMethod"`
				} `plist:"ActionParameters"`
			} `plist:"action"`
		} `plist:"actions"`
		Meta map[string]any `plist:"workflowMetaData"`
	}
	if err := load(fsys, dir+"/document.wflow", &document); err != nil {
		return "", err
	}
	switch {
	case document.Version != "2" || document.Meta["workflowTypeIdentifier"] != "com.apple.Automator.servicesMenu" ||
		document.Meta["serviceInputTypeIdentifier"] != "com.apple.Automator.nothing":
		return "", errors.New("document.wflow: no quick action that takes nothing")
	case len(document.Actions) != 1:
		return "", errors.New("document.wflow: not one action")
	}
	a := document.Actions[0].Action
	shells := []string{"/bin/sh", "/bin/bash", "/bin/zsh"}
	if a.Identifier != "com.apple.RunShellScript" || a.Class != "RunShellScriptAction" ||
		a.Path != "/System/Library/Automator/Run Shell Script.action" || !slices.Contains(shells, a.Parameters.Shell) {
		return "", errors.New("document.wflow: its action runs no line of shell")
	}
	return a.Parameters.Line, nil
}

func load(fsys fs.FS, name string, into any) error {
	text, err := fs.ReadFile(fsys, name)
	if err != nil {
		return err
	}
	if _, err := plist.Unmarshal(text, into); err != nil {
		return fmt.Errorf("%s: %w", path.Base(name), err)
	}
	return nil
}
