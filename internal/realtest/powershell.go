package realtest

import (
	_ "embed"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

//go:embed parse.mjs
var parsing []byte

// FaultsOfPowerShell are the places at which scripts are none that a grammar of PowerShell accepts; "" for none. No
// PowerShell runs here.
func FaultsOfPowerShell(t testing.TB, scripts ...[]byte) string {
	t.Helper()
	const grammar = "/usr/local/lib/leitstand-checkers/powershell"
	Need(t, "node", "npm")
	NeedFile(t, grammar+"/web-tree-sitter.wasm", "npm, and scripts/install-checkers")
	dir := t.TempDir()
	args := []string{filepath.Join(dir, "parse.mjs"), grammar}
	require.NoError(t, os.WriteFile(args[0], parsing, 0o600))
	for i, text := range scripts {
		name := filepath.Join(dir, fmt.Sprintf("%d.ps1", i))
		require.NoError(t, os.WriteFile(name, text, 0o600))
		args = append(args, name)
	}
	// To optimize the grammar takes longer than to parse by it.
	out, err := exec.Command("node", append([]string{"--liftoff-only"}, args...)...).CombinedOutput()
	require.NoError(t, err, "%s", out)
	return string(out)
}
