package realtest

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/internal/sample"
)

// Specimen is a component's native files, and what keys did when they were pressed under them: one
// folder of testdata/components, which anybody can use who reads or writes such files.
type Specimen struct {
	Component string          `json:"component"`
	Version   string          `json:"version"`
	Layouts   []string        `json:"layouts,omitempty"` // by their XKB names
	Hyper     string          `json:"hyper,omitempty"`   // the key that is Hyper, by a keymap beside
	Files     []string        `json:"files"`             // beside this one
	Presses   []SpecimenPress `json:"presses"`
}

// SpecimenPress is keys that go down one after the other and up again, by their W3C codes, and what
// came of it.
type SpecimenPress struct {
	Keys    []string   `json:"keys"`
	Then    [][]string `json:"then,omitempty"`    // further strokes
	Board   string     `json:"board,omitempty"`   // bus:vendor:product, where that matters
	Codes   []int      `json:"codes,omitempty"`   // the event codes that a driver gave
	Typed   string     `json:"typed,omitempty"`   // what a program on a text console was given
	Console int        `json:"console,omitempty"` // the console that came to the front
	Started []string   `json:"started,omitempty"` // the arguments with which a program was started
}

// specimenHome stands for the home folder of a test.
const specimenHome = "/home/somebody"

// Starts notes that the strokes of a binding started what a recording has last: the program with what begins so.
func (s *Specimen) Starts(b behaviour.Binding, r *Recording, begins string) {
	p := SpecimenPress{Keys: sample.Held(b.Chord)}
	for _, c := range b.Then {
		p.Then = append(p.Then, sample.Held(c))
	}
	for _, start := range r.Starts() {
		if args := strings.Split(start, "\x00"); strings.HasPrefix(start+"\x00", begins) {
			p.Started = args[:len(args)-1] // the last says in which folder
		}
	}
	s.Presses = append(s.Presses, p)
}

// AsStarted holds what is read of a specimen's files against what programs were really started with.
func (s Specimen) AsStarted(t testing.TB, read []behaviour.Binding) {
	t.Helper()
	for _, p := range s.Presses {
		chord := sample.Chord(p.Keys)
		four := chord // what Hyper is where a desktop does not know it
		if four.Mods.Has(keys.Hyper) {
			four.Mods = four.Mods&^keys.Hyper | keys.Ctrl | keys.Alt | keys.Shift | keys.Meta
		}
		at := slices.IndexFunc(read, func(b behaviour.Binding) bool {
			return b.Effect.Kind == behaviour.Launches && (b.Chord == chord || b.Chord == four) &&
				len(b.Then) == len(p.Then)
		})
		if !assert.GreaterOrEqual(t, at, 0, "%s %s: nothing is read for %v", s.Component, s.Version, p.Keys) {
			continue
		}
		var args []string
		for _, arg := range read[at].Effect.Launch().Command[1:] {
			if arg == "~" || strings.HasPrefix(arg, "~/") {
				arg = specimenHome + arg[1:]
			}
			args = append(args, arg)
		}
		assert.Equal(t, p.Started, args, "%s %s: %v", s.Component, s.Version, p.Keys)
	}
	assert.Greater(t, len(s.Presses), 2)
}

// Keep writes a specimen into the folder that LEITSTAND_COMPONENTS names, when the test has passed;
// nothing where it names none. The test's home folder, if it had one, gets another name.
func (s Specimen) Keep(t testing.TB, name, home string, files map[string][]byte) {
	t.Helper()
	root := os.Getenv("LEITSTAND_COMPONENTS")
	if root == "" {
		return
	}
	t.Cleanup(func() {
		if t.Failed() || t.Skipped() {
			return
		}
		renamed := strings.NewReplacer()
		if home != "" {
			renamed = strings.NewReplacer(home, specimenHome)
		}
		for _, p := range s.Presses {
			for i, arg := range p.Started {
				p.Started[i] = renamed.Replace(arg)
			}
		}
		dir := filepath.Join(root, name+"-"+s.Version)
		require.NoError(t, os.MkdirAll(dir, 0o755))
		var text bytes.Buffer
		e := json.NewEncoder(&text)
		e.SetEscapeHTML(false)
		e.SetIndent("", "  ")
		require.NoError(t, e.Encode(s))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "specimen.json"), text.Bytes(), 0o644))
		for file, data := range files {
			require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, file)), 0o755))
			require.NoError(t, os.WriteFile(filepath.Join(dir, file), []byte(renamed.Replace(string(data))), 0o644))
		}
	})
}

// Specimens are those of a kind that testdata/components holds, by their folders.
func Specimens(t testing.TB, root, kind string) map[string]Specimen {
	t.Helper()
	found, err := filepath.Glob(filepath.Join(root, "testdata/components", kind+"-*", "specimen.json"))
	require.NoError(t, err)
	require.NotEmpty(t, found, "make record writes them")
	list := map[string]Specimen{}
	for _, path := range found {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		var s Specimen
		require.NoError(t, json.Unmarshal(text, &s))
		list[filepath.Dir(path)] = s
	}
	return list
}
