package scancodemap_test

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/scancodemap"
	"leitstand/internal/sample"
)

const path = "scancodemap/leitstand.reg"

// What is written reads back as what was meant.
func TestReadsWhatItWrites(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := sample.Positions(t, func(b behaviour.Binding) bool {
			return scancodemap.Mechanism{}.Take(lab, b).Verdict == mechanism.Exact
		})
		out, err := mechanism.Write(scancodemap.Mechanism{}, lab, list)
		require.NoError(t, err)
		got, err := scancodemap.Mechanism{}.Read(lab, fstest.MapFS{path: {Data: out.Files()[0].Data}})
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(list, got))
	})
}

func TestTake(t *testing.T) {
	user := *lab
	rights := *lab.Machine
	rights.Admin = false
	user.Machine = &rights
	for _, c := range []struct {
		machine *mechanism.Machine
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{lab, sample.Becomes("CapsLock", "Escape"), mechanism.Exact, ""},
		{lab, sample.Nothing("Pause"), mechanism.Unavailable, "no scan code"},
		{lab, sample.Becomes("CapsLock", "Pause"), mechanism.Unavailable, "no scan code"},
		{lab, sample.Modifier("CapsLock", keys.Hyper), mechanism.NeedsAgent, "no Hyper"},
		{lab, sample.On("chart-table", sample.Nothing("Insert")), mechanism.NeedsAgent, "all boards"},
		{&user, sample.Nothing("Insert"), mechanism.Unavailable, "administrator"},
	} {
		got := scancodemap.Mechanism{}.Take(c.machine, c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// A long value is broken into lines as the registry editor breaks it.
func TestLines(t *testing.T) {
	var list []behaviour.Binding
	for i := range 12 {
		list = append(list, sample.Nothing(fmt.Sprintf("F%d", 13+i)))
	}
	out, err := mechanism.Write(scancodemap.Mechanism{}, lab, list)
	require.NoError(t, err)
	text, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(out.Files()[0].Data)
	require.NoError(t, err)
	_, value, _ := strings.Cut(string(text), `"Scancode Map"`)
	var lengths []int
	for line := range strings.SplitSeq(strings.TrimSpace(`"Scancode Map"`+value), "\r\n") {
		lengths = append(lengths, len(line))
	}
	assert.Equal(t, []int{80, 78, 58}, lengths)
}

// Files that Windows would take otherwise, or not at all, are refused.
func TestRefused(t *testing.T) {
	const head = "Windows Registry Editor Version " +
		"5.00\r\n\r\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Keyboard Layout]\r\n"
	utf16 := func(s string) []byte {
		b, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().Bytes([]byte(s))
		require.NoError(t, err)
		return b
	}
	for _, c := range []struct {
		data []byte
		want string
	}{
		{[]byte(head), "byte order mark"},
		{utf16("REGEDIT4\r\n"), "version 5.00"},
		{utf16(head), "no scancode map"},
		{utf16(head + `"Scancode Map"=hex:00,zz`), "is no byte"},
		{utf16(head + `"Scancode Map"=hex:00,00,00,00,00,00,00,00,02,00,00,00`), "at least 16 bytes"},
		{utf16(head + `"Scancode Map"=hex:00,00,00,00,00,00,00,00,09,00,00,00,01,00,3a,00,00,00,00,00`), "announces 9 entries and has 2"},
		{utf16(head + `"Scancode Map"=hex:00,00,00,00,00,00,00,00,02,00,00,00,01,00,3a,00,00,00,01,00`), "terminating"},
		{utf16(head + `"Scancode Map"=hex:01,00,00,00,00,00,00,00,02,00,00,00,01,00,3a,00,00,00,00,00`), "version and flags"},
		{utf16(head + `"Scancode Map"=hex:00,00,00,00,00,00,00,00,02,00,00,00,01,00,ff,ff,00,00,00,00`), "FFFF"},
		{utf16(head + `"Other"=dword:1`), "not part of a scancode map"},
	} {
		_, err := scancodemap.Mechanism{}.Read(lab, fstest.MapFS{path: {Data: c.data}})
		assert.ErrorContains(t, err, c.want)
	}
}

func FuzzRead(f *testing.F) {
	out, err := mechanism.Write(scancodemap.Mechanism{}, lab, []behaviour.Binding{sample.Becomes("CapsLock", "Escape")})
	require.NoError(f, err)
	f.Add(out.Files()[0].Data)
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = scancodemap.Mechanism{}.Read(lab, fstest.MapFS{path: {Data: data}})
	})
}
