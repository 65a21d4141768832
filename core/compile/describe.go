package compile

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"reflect"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/folder"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
)

// description is a machine as its folder states it, so that the folder can be
// read without the mapping.
type description struct {
	Machine string         `json:"machine"`
	System  machine.System `json:"system"`
	Desktop string         `json:"desktop,omitempty"`
	// Version is that of the desktop, also where the mapping leaves it to us: what we take for
	// the newest may be another one when the folder is read.
	Version string   `json:"desktopVersion,omitempty"`
	Session string   `json:"session,omitempty"`
	Layouts []string `json:"layouts"`
	Options []string `json:"options,omitempty"`
	Rights  string   `json:"rights,omitempty"`
	Library bool     `json:"layoutLibrary,omitempty"`
	Filter  bool     `json:"keyboardFilter,omitempty"`
	// Own are libraries of the system's own, by the layouts that they have, so that the folder can be read alone.
	Own    map[string][]byte `json:"systemLayouts,omitempty"`
	Boards []describedBoard  `json:"boards,omitempty"`
	Layers []string          `json:"layers,omitempty"`
	// LayerKeys say what switches the layers, on a Mac.
	LayerKeys []describedLayer `json:"layerKeys,omitempty"`
	Files     []describedFile  `json:"files"`
	ByHand    []string         `json:"byHand,omitempty"` // presses that somebody sets by the steps
}

type describedBoard struct {
	Name string   `json:"name"`
	IDs  []string `json:"ids"`
}

type describedLayer struct {
	Layer string `json:"layer"`
	Key   string `json:"key"`
	How   string `json:"how"`
}

type describedFile struct {
	Path   string `json:"path"`
	Goes   string `json:"goes,omitempty"`
	Digest string `json:"sha256"` // of what it holds, in hexadecimal
}

func describe(m *intent.Machine, files []mechanism.File, landings []land.Landing) []byte {
	d := description{
		Machine: m.Name,
		System:  m.System,
		Layouts: m.Machine.Layouts,
		Options: m.Options,
		Layers:  m.Layers,
		Library: m.LayoutLibrary,
		Filter:  m.KeyboardFilter,
		Files:   []describedFile{},
	}
	for _, l := range m.Machine.Own {
		if d.Own == nil {
			d.Own = map[string][]byte{}
		}
		d.Own[l.Name] = l.File
	}
	if m.System == machine.Linux {
		d.Desktop, d.Version, d.Session = m.Desktop, desktop.Version(m), m.Session
	}
	if !m.Admin {
		d.Rights = "user"
	}
	for _, b := range m.Boards {
		board := describedBoard{Name: b.Name}
		for _, id := range b.IDs {
			board.IDs = append(board.IDs, id.String())
		}
		d.Boards = append(d.Boards, board)
	}
	for _, on := range m.LayerKeys {
		if _, state := m.LayerState(on.Layer); state != intent.NoState &&
			(m.LayoutLibrary || m.System == machine.MacOS) {
			d.LayerKeys = append(d.LayerKeys, describedLayer{on.Layer, on.Key.String(), on.How.String()})
		}
	}
	for _, f := range files {
		d.Files = append(d.Files, describedFile{f.Path, f.Goes, folder.Digest(f.Data)})
	}
	for _, l := range landings {
		if l.Offer.Verdict == mechanism.Manual && !l.ReadBack() { // which no file holds
			d.ByHand = append(d.ByHand, l.Binding.String())
		}
	}
	text, err := json.MarshalIndent(d, "", "  ")
	if err != nil {
		panic(err) // there are only strings in it
	}
	return append(text, '\n')
}

// DescriptionFile is the name of the file in which a compiled folder says what machine it
// is for.
const DescriptionFile = "machine.json"

// StepsFile is the name of the file that says what a person does with a folder.
const StepsFile = "STEPS.md"

// AskFile and AskWindowsFile are the names of the scripts that ask a Mac or Windows whether what was compiled holds there.
const (
	AskFile        = "check.sh"
	AskWindowsFile = "check.cmd"
)

// ServesSteps reports whether a file of a folder serves the person who follows the steps, and no system reads it.
func ServesSteps(path string) bool {
	return slices.Contains([]string{StepsFile, AskFile, AskWindowsFile, change.PreferencesFile, change.WindowsFile}, path)
}

// SameMachine says whether two descriptions are of the same machine with the same files,
// whatever is in them.
func SameMachine(a, b []byte) bool {
	var x, y description
	if json.Unmarshal(a, &x) != nil || json.Unmarshal(b, &y) != nil {
		return false
	}
	for _, d := range []*description{&x, &y} {
		for i := range d.Files {
			d.Files[i].Digest = ""
		}
	}
	return reflect.DeepEqual(x, y)
}

// Described is the machine that a compiled folder is for, as the folder itself says.
func Described(fsys fs.FS) (*intent.Machine, error) {
	text, err := fs.ReadFile(fsys, DescriptionFile)
	if err != nil {
		return nil, err
	}
	var d description
	if err := json.Unmarshal(text, &d); err != nil {
		return nil, fmt.Errorf("%s: %w", DescriptionFile, err)
	}
	m := &machine.Machine{
		Name:           d.Machine,
		System:         d.System,
		Desktop:        d.Desktop,
		DesktopVersion: d.Version,
		Session:        d.Session,
		Layouts:        d.Layouts,
		Options:        d.Options,
		Admin:          d.Rights != "user",
		LayoutLibrary:  d.Library,
		KeyboardFilter: d.Filter,
	}
	for _, name := range slices.Sorted(maps.Keys(d.Own)) {
		l, err := keys.LayoutOfLibrary(name, d.Own[name])
		if err != nil {
			return nil, fmt.Errorf("%s: the library of the layout %q: %w", DescriptionFile, name, err)
		}
		m.Own = append(m.Own, machine.OwnLayout{Layout: l, File: d.Own[name]})
	}
	var boards []*machine.Board
	for _, b := range d.Boards {
		board := &machine.Board{Name: b.Name, Legends: "pc"}
		for _, text := range b.IDs {
			id, ok := machine.ParseBoardID(text)
			if !ok {
				return nil, fmt.Errorf("%s: %q is no identity of a board", DescriptionFile, text)
			}
			board.IDs = append(board.IDs, id)
		}
		boards = append(boards, board)
		m.Boards = append(m.Boards, b.Name)
	}
	in := intent.NewMachine(&mapping.Mapping{}, m)
	if m.Name == "" || !slices.Contains(machine.Systems, string(m.System)) || len(in.Layouts) == 0 ||
		len(in.Layouts) != len(m.Layouts) {
		return nil, errors.New(DescriptionFile + " does not describe a machine that we know")
	}
	in.Boards, in.Layers = boards, d.Layers
	for _, l := range d.LayerKeys {
		k, ok := keys.ByCode(l.Key)
		if !ok {
			return nil, fmt.Errorf("%s: %q is no key", DescriptionFile, l.Key)
		}
		in.LayerKeys = append(in.LayerKeys, intent.LayerKey{Layer: l.Layer, Key: k, How: behaviour.SwitchNamed(l.How)})
	}
	return in, nil
}

// ByHand lists what a folder's machine has by hand, as the folder itself says.
func ByHand(fsys fs.FS) []string {
	var d description
	text, err := fs.ReadFile(fsys, DescriptionFile)
	if err != nil || json.Unmarshal(text, &d) != nil {
		return nil
	}
	return d.ByHand
}

// Folders lists the machines whose folders compile wrote below a folder, by the folders'
// names.
func Folders(fsys fs.FS) []string {
	entries, err := fs.ReadDir(fsys, ".")
	if err != nil {
		return nil
	}
	var names []string
	for _, e := range entries {
		if _, err := fs.Stat(fsys, path.Join(e.Name(), DescriptionFile)); err == nil {
			names = append(names, e.Name())
		}
	}
	return names
}
