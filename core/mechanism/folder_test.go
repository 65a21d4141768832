package mechanism_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"leitstand/core/mechanism"
)

func TestFolderIsAFileSystem(t *testing.T) {
	f := mechanism.Folder{
		{Path: "xkb/rules/evdev", Data: []byte("a")},
		{Path: "STEPS.md", Data: []byte("bc")},
		{Path: "xkb/keymap.xkb"},
	}
	require.NoError(t, fstest.TestFS(f, "xkb/rules/evdev", "STEPS.md", "xkb/keymap.xkb"))
}
