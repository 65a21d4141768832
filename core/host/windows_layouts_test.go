package host_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/change"
	"leitstand/core/host"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/internal/sample"
)

// A user's layouts are those of the registry, in their order, each with the library of the system, where that is one.
func TestWindowsLayouts(t *testing.T) {
	const (
		user = `HKEY_CURRENT_USER\Keyboard Layout\`
		all  = `HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Control\Keyboard Layouts\`
	)
	values := map[string]string{
		user + `Preload:1`: "00000407", user + `Preload:2`: "d0010409", user + `Substitutes:d0010409`: "00020409",
		user + `Preload:3`: "0000040c", user + `Preload:4`: "00000407", user + `Preload:5`: "a0000407",
		user + `Preload:6`: "00000401", user + `Preload:7`: "00000419", user + `Preload:8`: "00000410",
		all + `00000407:Layout File`: "KBDGR.DLL", all + `00020409:Layout File`: `C:\elsewhere\none.dll`,
		all + `0000040c:Layout File`: "kbdfr.dll", all + `a0000407:Layout Text`: "Leitstand de",
		all + `00000401:Layout Text`: "Arabic (101)", all + `00000419:Layout File`: "../kbdru.dll",
	}
	get := func(store, key string) (change.Value, error) {
		require.Equal(t, change.Registry, store)
		if v, ok := values[key]; ok {
			return change.Text(v), nil
		}
		return nil, nil
	}
	german := sample.SystemLibrary(t)
	m := &machine.Machine{Layouts: []string{"us"}}
	left := host.WindowsLayouts(m, get, fstest.MapFS{
		"KBDGR.DLL": {Data: german}, "kbdfr.dll": {Data: german[:200]}, "kbdru.dll": {Data: make([]byte, 2<<20)},
	})
	assert.Equal(t, []string{"de", "us(intl)", "fr", "ru"}, m.Layouts)
	require.Len(t, m.Own, 1)
	assert.Equal(t, german, m.Own[0].File)
	text, _ := m.OwnLayout("de").Type(keys.TypeState{}, sample.Key("KeyX"), 0)
	assert.Equal(t, "y", text, "what the library says")
	var said []string
	for _, l := range left {
		said = append(said, l.File+"|"+l.Text+"|"+l.Why)
	}
	const listed = ": what it types is taken from a list"
	assert.Equal(t, []string{
		`C:\elsewhere\none.dll|the layout us(intl)|its library is not there` + listed,
		"kbdfr.dll|the layout fr|failure to read data directories: EOF" + listed,
		"|the layout 00000401 Arabic (101)|it is none that we know",
		"../kbdru.dll|the layout ru|it is larger than 1024 kB" + listed,
	}, said)

	m = &machine.Machine{Layouts: []string{"us"}}
	values = nil
	assert.Empty(t, host.WindowsLayouts(m, get, fstest.MapFS{}))
	assert.Equal(t, []string{"us"}, m.Layouts)
}
