package regfile_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"

	"leitstand/core/mechanism/form/regfile"
)

const whole = `Windows Registry Editor Version 5.00

; of the tide office
[HKEY_CURRENT_USER\Software\Tide]
"Station"="Süderhaff \\ \"3\""
@="all"
"Depth"=dword:0000001f
"Map"=hex:00,01,\
  02
"Path"=hex(2):41,00
"Old"=-

[-HKCU\Software\Gone]
`

func TestParse(t *testing.T) {
	wide, err := unicode.UTF16(
		unicode.LittleEndian,
		unicode.UseBOM,
	).NewEncoder().Bytes(
		[]byte(strings.ReplaceAll(whole, "\n", "\r\n")),
	)
	require.NoError(t, err)
	for _, data := range [][]byte{[]byte(whole), []byte("\ufeff" + whole), wide} {
		got, err := regfile.Parse(data)
		require.NoError(t, err)
		var said []string
		for _, v := range got {
			what := fmt.Sprintf("%s % x", v.Type, v.Bytes)
			if v.Text != nil {
				what = *v.Text
			} else if v.Number != nil {
				what = fmt.Sprint(*v.Number)
			}
			said = append(said, fmt.Sprintf("%d %s %s %s %v", v.Line, v.Key, v.Name, what, v.Gone))
		}
		const key = `HKEY_CURRENT_USER\Software\Tide`
		assert.Equal(t, []string{
			"5 " + key + ` Station Süderhaff \ "3" false`, "6 " + key + "  all false", "7 " + key + " Depth 31 false",
			"8 " + key + " Map hex 00 01 02 false", "10 " + key + " Path hex(2) 41 00 false", "11 " + key + " Old   true",
			`13 HKEY_CURRENT_USER\Software\Gone    true`,
		}, said)
	}
}

func TestParseTellsWhatIsWrong(t *testing.T) {
	head := "REGEDIT4\n[HKCU\\a]\n"
	for text, want := range map[string]string{
		"tide": "first line", "REGEDIT4\n\"a\"=\"b\"": "line 2 is in no key", head + `"a`: "has no end",
		head + `"a":1`: "equals sign", head + `"a"=1`: "no type", head + `"a"=dword:g`: "32 bits",
		head + `"a"=hex:100`: "no byte", head + `"a"="b" c`: "stands in quotes", head + "a=1": "stands in quotes",
	} {
		_, err := regfile.Parse([]byte(text))
		assert.ErrorContains(t, err, want)
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(whole))
	f.Fuzz(func(t *testing.T, data []byte) { _, _ = regfile.Parse(data) })
}
