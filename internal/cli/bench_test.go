package cli_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// BenchmarkValidateBesideEmpty runs the program on the example beside a program
// that only starts Cobra, in turn, and reports how many times longer it takes.
func BenchmarkValidateBesideEmpty(b *testing.B) {
	dir := b.TempDir()
	build := func(pkg string) string {
		out := filepath.Join(dir, filepath.Base(pkg))
		cmd := exec.Command("go", "build", "-o", out, pkg)
		cmd.Env = append(os.Environ(), "CGO_ENABLED=0")
		text, err := cmd.CombinedOutput()
		require.NoError(b, err, "%s", text)
		return out
	}
	program, empty := build("../../cmd/leitstand"), build("./testdata/empty")
	run := func(name string, args ...string) time.Duration {
		start := time.Now()
		require.NoError(b, exec.Command(name, args...).Run())
		return time.Since(start)
	}
	var ours, theirs time.Duration
	for b.Loop() {
		ours += run(program, "validate", "-f", "../../examples/tide-office/leitstand.hcl")
		theirs += run(empty)
	}
	b.ReportMetric(float64(ours)/float64(theirs), "times-empty")
}
