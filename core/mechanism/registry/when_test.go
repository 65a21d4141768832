package registry_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/mechanism/registry"
)

// Each mechanism says when it takes effect, as a value and as a sentence.
func TestWhen(t *testing.T) {
	for _, m := range registry.List() {
		assert.NotZero(t, m.Facts().When, m.Facts().Name)
		assert.NotEmpty(t, m.Facts().Takes, m.Facts().Name)
	}
}
