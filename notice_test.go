package leitstand_test

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand"
)

// Every library that is linked on any system stands in NOTICE, in its version, with a text.
func TestNotice(t *testing.T) {
	for _, system := range []string{"linux", "windows", "darwin"} {
		cmd := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}} "+
			"{{.Version}}{{end}}{{end}}", "./cmd/leitstand")
		cmd.Env = append(cmd.Environ(), "GOOS="+system, "CGO_ENABLED=0")
		out, err := cmd.Output()
		require.NoError(t, err)
		modules := strings.Fields(strings.ReplaceAll(string(out), " ", "@"))
		require.NotEmpty(t, modules)
		for _, m := range modules {
			name := strings.Replace(m, "@", " ", 1)
			_, text, ok := strings.Cut(leitstand.Notice, "\n"+name+"\n")
			if assert.True(t, ok, "%s is not in NOTICE: run scripts/notice > NOTICE", name) {
				assert.Contains(t, text[:min(len(text), 4000)], "Copyright", name)
			}
		}
	}
	for _, data := range []string{"xkeyboard-config", "the headers of the X protocol", "core/keys/data/systems.txt"} {
		assert.Contains(t, leitstand.Notice, data)
	}
}
