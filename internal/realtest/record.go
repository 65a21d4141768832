package realtest

import (
	"crypto/sha256"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// packages are the Debian packages of the components that tests press keys on.
var packages = map[string]string{
	"GNOME Shell": "gnome-shell", "GNOME Settings Daemon": "gnome-settings-daemon", "mutter": "mutter",
	"muffin": "muffin", "marco": "marco",
	"MATE Settings Daemon": "mate-settings-daemon", "kwin": "kwin-wayland", "kwin on X11": "kwin-x11",
	"kmag beside Plasma": "kwin-x11", "xfsettingsd": "xfce4-settings", "xfwm4": "xfwm4",
	"i3": "i3-wm", "sway": "sway", "X server": "xvfb", "libxkbcommon": "libxkbcommon0", "Xlib": "libx11-6",
	"GTK": "libgtk-3-0 libgtk-3-0t64", "Qt": "libqt5core5a libqt6core6t64", "udev": "udev",
	"loadkeys": "kbd", "Wine": "wine",
}

// Pressed notes, when the test has passed, that keys pressed on a component did what a
// mechanism's files say, and what that was: a line in the folder that LEITSTAND_PRESSED names,
// if it names one. core/mechanism holds the record, and the verdicts go by it.
func Pressed(t testing.TB, mechanism, component, did string) {
	t.Helper()
	note(t, mechanism, component, ComponentVersion(t, component), did)
}

// ComponentVersion is the version of a component, as the record has it; "" where it is not there.
func ComponentVersion(t testing.TB, component string) string {
	t.Helper()
	names, ok := packages[component]
	require.True(t, ok, "no package is known for %s", component)
	version := ""
	for name := range strings.FieldsSeq(names) {
		if version == "" {
			version = Version(name)
		}
	}
	switch component {
	case "GNOME Shell", "mutter", "GNOME Settings Daemon", "udev": // whose second number is that of an update
		version, _, _ = strings.Cut(version, ".")
	}
	return version
}

// note is Pressed for a component that is no package.
func note(t testing.TB, mechanism, component, version, did string) {
	dir := os.Getenv("LEITSTAND_PRESSED")
	if dir == "" || version == "" {
		return
	}
	t.Cleanup(func() {
		if t.Failed() || t.Skipped() {
			return
		}
		line := strings.Join([]string{mechanism, component, version, did}, "\t") + "\n"
		require.NoError(
			t, os.WriteFile(filepath.Join(dir, fmt.Sprintf("%x", sha256.Sum256([]byte(line)))), []byte(line), 0o644),
		)
	})
}

// Pressed notes what was pressed on the kernel.
func (k *Kernel) Pressed(mechanism, did string) {
	k.t.Helper()
	note(k.t, mechanism, "Linux", k.Version(), did)
}

// Version is the kernel's.
func (k *Kernel) Version() string {
	k.t.Helper()
	version := versionOf.FindStringSubmatch(strings.TrimPrefix(filepath.Base(kernel(k.t).path), "vmlinuz-"))
	require.NotNil(k.t, version)
	return version[1]
}
