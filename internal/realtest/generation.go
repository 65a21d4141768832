package realtest

import (
	"os"
	"os/exec"
	"regexp"
	"testing"
)

// Other says whether the test runs in the root of another generation of the system, to which
// scripts/in-other-generation changes.
func Other() bool { return os.Getenv("LEITSTAND_GENERATION") == "other" }

// LayoutsOfThisMachine lets a test's components of another generation read this machine's
// layouts, not their own: for what is held against data made of these.
func LayoutsOfThisMachine(t testing.TB) {
	t.Helper()
	if Other() {
		t.Setenv("XKB_CONFIG_ROOT", "/mnt")
	}
}

// DataOfThisMachine are arguments by which xkbcomp does the same.
func DataOfThisMachine() []string {
	if Other() {
		return []string{"-I", "-I/mnt"}
	}
	return nil
}

var versionOf = regexp.MustCompile(`^(?:\d+:)?(\d+(?:\.\d+)?)`)

// Version is the version of a package of Debian, of which it keeps two numbers; "" where the
// system has no such packages.
func Version(debian string) string {
	out, err := exec.Command("dpkg-query", "-W", "-f", "${Version}", debian).Output()
	if err != nil {
		return ""
	}
	if found := versionOf.FindSubmatch(out); found != nil {
		return string(found[1])
	}
	return ""
}
