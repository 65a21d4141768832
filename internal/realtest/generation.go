package realtest

import (
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// other is the root of the other generation of components, which
// scripts/install-other-generation makes.
const other = "/usr/local/lib/leitstand-checkers/other"

// Generations runs a test with the components of this machine, and once more with some of
// them from the root of another generation of the system.
func Generations(t *testing.T, programs []string, test func(t *testing.T)) {
	t.Run("own", test)
	t.Run("other", func(t *testing.T) {
		Other(t, programs...)
		test(t)
	})
}

// Other has programs run from the root of another generation for the rest of the test. What
// is run there sees the machine's folder of temporary files, and its layouts' data in /mnt.
func Other(t *testing.T, programs ...string) {
	t.Helper()
	if _, err := os.Stat(filepath.Join(other, "complete")); err != nil {
		Missing(t, "there is no root of another generation", "mmdebstrap, and run scripts/install-other-generation as root")
	}
	if os.Getuid() != 0 {
		Missing(t, "only root may change to the root of another generation", "sudo, and run the test with it")
	}
	dir := t.TempDir()
	for _, p := range programs {
		script := fmt.Sprintf(`#!/bin/sh
exec unshare --mount --propagation private sh -c 'mount --rbind %[2]s %[1]s/tmp && mount -t proc proc %[1]s/proc && mount --rbind /dev %[1]s/dev &&
mount --bind /usr/share/X11/xkb %[1]s/mnt && exec chroot %[1]s env PATH=/usr/sbin:/usr/bin:/sbin:/bin:/usr/lib/%[4]s/libexec sh -c "cd \"\$0\" 2>/dev/null; exec \"\$@\"" "$0" "$@"' "$PWD" %[3]s "$@"
`, other, os.TempDir(), p, map[string]string{"amd64": "x86_64-linux-gnu", "arm64": "aarch64-linux-gnu"}[runtime.GOARCH])
		require.NoError(t, os.WriteFile(filepath.Join(dir, p), []byte(script), 0o755))
	}
	t.Setenv("PATH", dir+":"+os.Getenv("PATH"))
}

// LayoutsOfThisMachine lets a test's components of another generation read this machine's
// layouts, not their own: for what is held against data made of these.
func LayoutsOfThisMachine(t *testing.T) {
	if strings.Contains(t.Name()+"/", "/other/") {
		t.Setenv("XKB_CONFIG_ROOT", "/mnt")
	}
}
