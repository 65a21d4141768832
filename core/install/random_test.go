package install_test

import (
	"encoding/json"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/install"
	"leitstand/core/machine"
	"leitstand/internal/sample"
)

// Of random mappings, on every Linux machine: an install behind another leaves what it leaves on a machine that never
// had the other; installed twice it does nothing; what is installed is kept in the journal as it is; and to restore
// leaves what was there before.
func TestRandomMappings(t *testing.T) {
	sample.Anew(t, 300)
	rapid.Check(t, func(t *rapid.T) {
		builds := func() map[string]*compile.Build {
			list, _, err := compile.All(sample.Valid(t).Mapping, nil, nil)
			require.NoError(t, err)
			found := map[string]*compile.Build{}
			for _, b := range list {
				if b.Machine.System == machine.Linux {
					found[b.Machine.Desktop] = b // one of each
				}
			}
			return found
		}
		one, two := builds(), builds()
		for name, b := range two {
			m := used(one[name], b)
			had := m.snapshot()
			fresh := used(one[name], b)
			carryOut(t, fresh, install.Items(b))
			if one[name] != nil {
				carryOut(t, m, install.Items(one[name]))
			}
			carryOut(t, m, install.Items(b))
			require.Equal(t, fresh.snapshot(), m.snapshot(), name)
			for _, c := range b.Changes() {
				if s, ok := c.(change.Setting); ok && s.Sole {
					require.Equal(t, alike(b, s), m.having(s.To), s.Key)
				}
			}
			require.True(t, carryOut(t, m, install.Items(b)).Empty())
			carryOut(t, m, nil)
			require.Equal(t, had, m.snapshot(), name)
		}
	})
}

// alike counts the settings of a build like one: a chord with a key of the numpad has a name for each state of NumLock.
func alike(b *compile.Build, as change.Setting) (n int) {
	for _, c := range b.Changes() {
		if s, ok := c.(change.Setting); ok && s.Sole && s.Store == as.Store && change.Same(s.To, as.To) {
			n++
		}
	}
	return n
}

// having counts the keys that have a value.
func (m *memory) having(v change.Value) (n int) {
	for _, is := range m.values {
		if change.Same(is, v) {
			n++
		}
	}
	return n
}

// used is a machine in use: where changes of builds are made, its user has something already.
func used(builds ...*compile.Build) *memory {
	m := newMemory()
	for _, b := range builds {
		if b == nil {
			continue
		}
		for i, c := range b.Changes() {
			switch c := c.(type) {
			case change.Line:
				m.files[c.Path] = install.File{Data: []byte("# of the user's own"), Mode: 0o600}
			case change.Block:
				m.files[c.Path] = install.File{Data: []byte("# of the user's own\n"), Mode: 0o644}
			case change.Member:
				m.values[c.Store+" "+c.Key] = change.Texts{"theirs"}
				if c.Between != "" {
					m.values[c.Store+" "+c.Key] = change.Text("theirs")
				}
			case change.Setting:
				if i%2 == 0 {
					m.values[c.Store+" "+c.Key] = change.Text("theirs")
				}
				if c.Sole {
					m.values[c.Store+" "+c.Key[:strings.LastIndexByte(c.Key, '/')]+"/<Mod5>F"+strconv.Itoa(i)] = c.To
				}
			case change.File, change.Call, change.Hand: // what is ours alone is not there
			}
		}
	}
	return m
}

func carryOut(t *rapid.T, m *memory, items []install.Item) *install.Plan {
	t.Helper()
	text, err := json.Marshal(items)
	require.NoError(t, err)
	var again []install.Item
	require.NoError(t, json.Unmarshal(text, &again))
	same, err := json.Marshal(again)
	require.NoError(t, err)
	require.JSONEq(t, string(text), string(same))
	s, err := install.Begin(install.Installer{Machine: m, Book: m}, now, func() (func(), error) { return func() {}, nil })
	require.NoError(t, err)
	plan, err := s.Plan(install.Wanted{Installed: install.Installed{Items: again}})
	require.NoError(t, err)
	require.NoError(t, s.Carry(s.Journal, plan, install.Terms{}))
	return plan
}
