package shelllink_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/shelllink"
	"leitstand/internal/sample"
)

// Whatever a program or an address is called, the name of its file has nothing that the command prompt or PowerShell
// would act on in the lines of the steps.
func TestNamesAreHarmlessInBothShells(t *testing.T) {
	m := machine("us")
	for _, l := range []behaviour.Launch{
		{Command: []string{"C:\\Tide\\x$(calc)`whoami`“a”„b.exe"}}, {Open: "https://tides.example/$(calc)`x`%41“q”"},
	} {
		out, err := mechanism.Write(shelllink.Mechanism{}, m, []mechanism.Binding{sample.Launch(keys.Ctrl|keys.Alt, "KeyT", l)})
		require.NoError(t, err)
		require.NotEmpty(t, out.Files())
		for _, f := range out.Files() {
			name := f.Path[strings.LastIndex(f.Path, "/")+1:]
			assert.False(t, strings.ContainsAny(name, "\"$`^%!“”„"), name)
		}
	}
}
