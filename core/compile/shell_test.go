package compile_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"mvdan.cc/sh/v3/syntax"
	"pgregory.net/rapid"

	"leitstand/core/compile"
	"leitstand/core/machine"
	"leitstand/internal/sample"
)

// Whatever is compiled, what a person enters, there and back, is a program of a POSIX shell, and on Windows nothing of one.
func TestStepsAreShell(t *testing.T) {
	sample.Anew(t, 150)
	rapid.Check(t, func(t *rapid.T) {
		drawn := sample.Valid(t)
		builds, _, err := compile.All(drawn.Mapping, nil, nil)
		require.NoError(t, err)
		for _, b := range builds {
			windows := b.Machine.System == machine.Windows
			if b.Machine.System == machine.IPadOS { // texts for a panel
				continue
			}
			for _, f := range b.Folder() {
				code := string(f.Data)
				switch {
				case f.Path == compile.StepsFile:
					code = codeOf(code)
				case !strings.HasSuffix(f.Path, ".sh"):
					continue
				}
				if windows {
					for line := range strings.Lines(code) {
						require.NotRegexp(t, `^(sudo|sh|mkdir|rm|cp) `, strings.TrimSpace(line), drawn.Text)
					}
					continue
				}
				_, err := syntax.NewParser(syntax.Variant(syntax.LangPOSIX)).Parse(strings.NewReader(code), "")
				require.NoError(t, err, "%s\n%s", code, drawn.Text)
			}
		}
	})
}
