package cli_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

const keyboardsMapping = `machine "gauge" {
  system = "linux"
  boards = ["chart-table"]
}
board "chart-table" { ids = ["usb:0627:0001"] }
remap "CapsLock" { to = "Escape" }
`

// On a kernel with udev and two keyboards the program names both, tells of keys that are pressed, and puts a mapping in
// place: the driver gives another key at once, on both boards. Taken back, it gives the key that it gave.
func TestOnAKernel(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "qemu-system-x86_64", "qemu-system-x86")
	binary, err := os.ReadFile(program(t, "linux"))
	require.NoError(t, err)
	files := map[string][]byte{"leitstand": binary, "leitstand.hcl": []byte(keyboardsMapping)}
	const run = "HOME=/root ./leitstand "
	const tell = " > /dev/ttyS0 2>&1"
	capsLock := sample.Scancode(sample.Key("CapsLock"))

	k := realtest.Boot(t, files,
		run+"boards"+tell, run+"install --yes"+tell, run+"install --yes"+tell, run+"boards --learn=10m"+tell+" &")
	said := k.Said()
	assert.Regexp(t, `AT Translated Set 2 keyboard +built-in +not in the mapping`, said)
	assert.Regexp(t, `QEMU USB Keyboard +usb:0627:0001 +board chart-table`, said)
	assert.Contains(t, said, "gauge is installed: 1 location written and read back")
	assert.Contains(t, said, "gauge is up to date. Nothing was changed")
	assert.Equal(t, []int{sample.Evdev(sample.Key("Escape"))}, k.Chord(capsLock).Pressed)
	realtest.WaitFor(t, "the key to be told of", func() bool {
		return strings.Contains(k.Said(), "Escape on chart-table  event code 1, scan code 70039")
	})
	k.Unplug()
	assert.Equal(t, []int{sample.Evdev(sample.Key("Escape"))}, k.Chord(capsLock).Pressed)

	// A rule that leaves the mapping leaves the driver.
	files["other.hcl"] = []byte(
		strings.Replace(keyboardsMapping, `remap "CapsLock" { to = "Escape" }`, `disable "Insert" {}`, 1),
	)
	k = realtest.Boot(t, files, run+"install --yes --admin-script admin.sh"+tell, run+"status"+tell, "sh admin.sh"+tell,
		run+"status"+tell, run+"install -f other.hcl --yes"+tell)
	assert.Regexp(
		t,
		`(?s)0 locations written\..*1 location waits for an administrator: sudo sh admin\.sh.*3 locations wait for an administrator.*`+
			`1 location is as installed .*it is taken back for gauge of /test/other\.hcl`,
		k.Said(),
	)
	assert.Equal(t, []int{sample.Evdev(sample.Key("CapsLock"))}, k.Chord(capsLock).Pressed)
	assert.Empty(t, k.Chord(sample.Scancode(sample.Key("Insert"))).Pressed)

	// What is taken back, and what was on trial, leaves it, too.
	k = realtest.Boot(t, files, run+"install --yes"+tell, run+"restore --yes"+tell, run+"status"+tell,
		run+"install -f other.hcl --yes --trial 1h"+tell, run+"keep --not"+tell,
		"[ -e /root/.local ] || echo left /etc/udev/hwdb.d/* /etc/udev/hwdb.[!d]*"+tell)
	assert.Contains(t, k.Said(), "gauge is as it was before.")
	assert.Contains(t, k.Said(), "Nothing is installed here.")
	assert.Contains(t, k.Said(), "It is put back.")
	assert.Contains(t, k.Said(), "left /etc/udev/hwdb.d/* /etc/udev/hwdb.[!d]*\r\n")
	for _, code := range []string{"CapsLock", "Insert"} {
		pressed := k.Chord(sample.Scancode(sample.Key(code))).Pressed
		assert.Equal(t, []int{sample.Evdev(sample.Key(code))}, pressed, code)
	}
}
