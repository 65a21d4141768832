package compile_test

import (
	"bytes"
	"flag"
	"os"
	"testing"
	"unicode/utf8"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"

	"leitstand/examples"
)

var update = flag.Bool("update", false, "write the example's files into the testdata; read them before committing")

// The text files of the example are those of testdata/example.txtar, which people
// have read. A registry file stands there as UTF-8.
func TestExampleFiles(t *testing.T) {
	_, builds, _ := build(t, string(examples.TideOffice))
	archive := &txtar.Archive{Comment: []byte("The files of the example, machine by machine. Binary files are left " +
		"out.\n\n")}
	for _, b := range builds {
		for _, f := range b.Folder() {
			text := f.Data
			if bytes.HasPrefix(text, []byte{0xFF, 0xFE}) {
				var err error
				text, err = unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(text)
				require.NoError(t, err)
			}
			if !utf8.Valid(text) || bytes.ContainsRune(text, 0) {
				continue
			}
			text = bytes.ReplaceAll(text, []byte("\r\n"), []byte("\n"))
			archive.Files = append(archive.Files, txtar.File{Name: b.Machine.Name + "/" + f.Path, Data: text})
		}
	}
	got := string(txtar.Format(archive))
	if *update {
		require.NoError(t, os.WriteFile("testdata/example.txtar", []byte(got), 0o644))
		return
	}
	want, err := os.ReadFile("testdata/example.txtar")
	require.NoError(t, err)
	assert.Equal(t, string(want), got)
}
