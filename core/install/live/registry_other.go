//go:build !windows

package live

import (
	"errors"

	"leitstand/core/change"
)

// registryValue: only Windows has a registry.
func registryValue(string) (change.Value, error) {
	return nil, errors.New("there is no registry on this system")
}
