package proof_test

import (
	"fmt"
	"regexp"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/keys/library"
)

// withSigns is a machine with a layer of characters, and so with a layout of ours.
const withSigns = `
machine "lab" {
  system  = "%s"
  layouts = ["de"]
  %s
}
layer "signs" {
  while = "%s"
  keys = {
    KeyE  = "→"
    Slash = "÷"
  }
}
`

// laidOut is a machine's build and its files, which the proof finds right, with a file at a path.
func laidOut(t *testing.T, path, system, more, holds string) (*compile.Build, fstest.MapFS) {
	t.Helper()
	b := build(t, fmt.Sprintf(withSigns, system, more, holds))[0]
	files := filesOf(b)
	require.Contains(t, files, path)
	require.Empty(t, prove(t, b, files).Defects)
	return b, files
}

// lost reports whether the proof notices that files are changed.
func lost(t *testing.T, b *compile.Build, files fstest.MapFS, changed map[string][]byte) bool {
	t.Helper()
	mutant := fstest.MapFS{}
	for p, f := range files {
		mutant[p] = f
	}
	for p, data := range changed {
		mutant[p] = &fstest.MapFile{Data: data}
	}
	return wrong(b, mutant)
}

// Every row of a layout file of macOS is dropped, and has another output.
func TestRowsOfKeyLayoutsAreNoticed(t *testing.T) {
	t.Parallel()
	const path = "keylayout/leitstand-de.keylayout"
	b, files := laidOut(t, path, "macos", "", "AltRight")
	lines := strings.SplitAfter(string(files[path].Data), "\n")
	value := regexp.MustCompile(`(output|next)="[^"]*"`)
	rows, at := 0, ""
	for i, line := range lines {
		if strings.Contains(line, "<keyMap ") {
			at = strings.TrimSpace(line)
		}
		if !strings.Contains(line, "<key ") && !strings.Contains(line, "<when ") && !strings.Contains(line, "<modifier ") ||
			strings.Contains(line, `keys=""`) { // which is the map where no other fits, too
			continue
		}
		rows++
		mutant := "" // every other row is dropped
		if has := value.FindStringIndex(line); has != nil && rows%2 == 0 {
			name, _, _ := strings.Cut(line[has[0]:has[1]], "=")
			mutant = line[:has[0]] + name + `="ŧ"` + line[has[1]:]
		}
		text := strings.Join(lines[:i], "") + mutant + strings.Join(lines[i+1:], "")
		assert.True(t, lost(t, b, files, map[string][]byte{path: []byte(text)}), "%s %s", at, line)
	}
	t.Logf("%d rows", rows)
	assert.Greater(t, rows, 600)
}

// Every row of a layout library of Windows is dropped, and is another: scan codes, characters in each state, what CapsLock
// does to them, and what comes of dead keys.
func TestRowsOfLibrariesAreNoticed(t *testing.T) {
	t.Parallel()
	const path = "layout/de/AMD64.dll"
	b, files := laidOut(t, path, "windows", "layout_library = true", "ControlRight")
	whole := func() *library.Library {
		of, _, err := library.Open(files[path].Data)
		require.NoError(t, err)
		return of
	}
	rows := 0
	try := func(what string, change func(of *library.Library)) {
		t.Helper()
		rows++
		of, changed := whole(), map[string][]byte{}
		change(of)
		for name, m := range map[string]library.Machine{"AMD64": library.AMD64, "ARM64": library.ARM64} {
			data, err := of.Build(m)
			require.NoError(t, err)
			changed["layout/de/"+name+".dll"] = data
		}
		assert.True(t, lost(t, b, files, changed), what)
	}
	of := whole()
	for code, vk := range of.Scancodes {
		if vk&0xFF != library.None {
			try(fmt.Sprintf("scan code %02X", code), func(of *library.Library) { of.Scancodes[code] ^= 1 })
		}
	}
	for i, p := range of.E0 {
		try(fmt.Sprintf("E0 %02X", p.Code), func(of *library.Library) { of.E0[i].VK ^= 1 })
	}
	for i, p := range of.Modifiers {
		try(fmt.Sprintf("modifier %02X", p.VK), func(of *library.Library) { of.Modifiers[i].Bit ^= 3 })
	}
	for i, c := range of.Columns {
		if c != library.NoColumn {
			try(fmt.Sprintf("column %d", i), func(of *library.Library) { of.Columns[i] = library.NoColumn })
		}
	}
	for i, r := range of.Rows {
		if len(r.Cells) > 1 && r.Cells[0] != r.Cells[1] {
			try(fmt.Sprintf("row %02X CapsLock", r.VK), func(of *library.Library) { of.Rows[i].Attributes ^= library.CapsLock })
		}
		for c := range r.Cells {
			if r.VK == 0x03 && c != 6 {
				continue // the key is pressed with Ctrl alone
			}
			if keypad := r.VK >= 0x60 && r.VK <= 0x69 || r.VK == 0x6E; keypad && c%2 == 1 {
				continue // with Shift, the keypad moves the cursor
			}
			try(fmt.Sprintf("row %02X column %d", r.VK, c), func(of *library.Library) {
				of.Rows[i].Cells[c] = library.Cell{Unit: 'ŧ'}
			})
		}
	}
	for i, d := range of.Dead {
		try(fmt.Sprintf("dead %04X %04X", d.Accent, d.Base), func(of *library.Library) { of.Dead[i].Result = 'ŧ' })
	}
	try("AltGr", func(of *library.Library) { of.AltGr = false })
	t.Logf("%d rows", rows)
	assert.Greater(t, rows, 700)
}
