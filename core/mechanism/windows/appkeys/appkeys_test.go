package appkeys_test

import (
	"os"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/appkeys"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

var lab = sample.Machine(mapping.Machine{Name: "lab", System: mapping.Windows, Layouts: []string{"de"}})

const path = "appkeys/leitstand.reg"

func start(key string, words ...string) behaviour.Binding {
	return sample.Launch(0, key, behaviour.Launch{Command: words})
}

func TestTake(t *testing.T) {
	for _, c := range []struct {
		binding behaviour.Binding
		want    string
	}{
		{start("LaunchMail", `C:\Tide office\mail.exe`), "limited: the program in front is given the key first"},
		{sample.Off(0, "LaunchApp2"), "limited: the program in front is given the key first"},
		{start("LaunchMail", "mail", "-x"), "unavailable: LaunchMail starts a program without arguments only"},
		{start("LaunchMail", `%TIDE%\mail.exe`), `unavailable: the text of such a key is a path as it stands, which "%TIDE%\\mail.exe" is not`},
		{start("F9", "mail"), "unavailable: "},
		{sample.Launch(1, "LaunchMail", behaviour.Launch{Command: []string{"mail"}}), "unavailable: "},
	} {
		o := appkeys.Mechanism{}.Take(lab, c.binding)
		assert.Equal(t, c.want, o.Verdict.String()+": "+o.Why.String(), c.binding.String())
	}
}

// What Wine's registry editor has imported it exports again, and it is read from there as it was meant.
func TestImportedByRegistryEditor(t *testing.T) {
	list := []mechanism.Binding{
		start("BrowserHome", `C:\Tide office\näh.exe`), start("LaunchMail", "mail"), sample.Off(0, "MediaSelect"),
		start("LaunchApp1", `C:\a.lnk`), start("LaunchApp2", "calc"),
	}
	out, err := mechanism.Write(appkeys.Mechanism{}, lab, list)
	require.NoError(t, err)
	read, err := appkeys.Mechanism{}.Read(lab, fstest.MapFS{path: {Data: out.Files()[0].Data}})
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(list, read))
	wine := realtest.NewWine(t)
	require.NoError(t, os.WriteFile(wine.Path("keys.reg"), out.Files()[0].Data, 0o600))
	wine.Run("reg", "import", `C:\keys.reg`)
	const key = `HKCU\Software\Microsoft\Windows\CurrentVersion\Explorer\AppKey`
	wine.Run("reg", "export", key, `C:\out.reg`, "/y")
	exported, err := os.ReadFile(wine.Path("out.reg"))
	require.NoError(t, err)
	require.True(t, appkeys.Mechanism{}.Knows("out.reg", exported))
	got, err := appkeys.Mechanism{}.Import(lab, exported, nil)
	require.NoError(t, err)
	assert.Empty(t, got.Left)
	assert.Empty(t, behaviour.Compare(list, got.Bindings))
}

func TestReadTellsWhatIsWrong(t *testing.T) {
	file := func(lines string) fstest.MapFS {
		const head = "REGEDIT4\n[HKEY_CURRENT_USER\\Software\\Microsoft\\Windows\\CurrentVersion\\Explorer\\AppKey\\"
		return fstest.MapFS{path: {Data: []byte(head + lines)}}
	}
	_, err := appkeys.Mechanism{}.Read(lab, file("99]\n\"ShellExecute\"=\"x\"\n"))
	assert.ErrorContains(t, err, "no key has that command")
	got, err := appkeys.Mechanism{}.Read(lab, file("15]\n\"Association\"=\"http\"\n"))
	require.NoError(t, err)
	assert.Empty(t, got)
	got, err = appkeys.Mechanism{}.Read(lab, file(strings.ToUpper("15]\n\"ShellExecute\"=\"x\"\n")))
	require.NoError(t, err)
	assert.Len(t, got, 1, "names are the same in capitals")
}
