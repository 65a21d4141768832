package mapping

import (
	"errors"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/hashicorp/hcl/v2/hclwrite"
)

// Format lays a mapping out anew: indentation, spaces, aligned equals signs. What
// is said, and every comment, stays as it is. A text that HCL cannot read is
// refused, since its layout cannot be known.
func Format(text []byte) ([]byte, error) {
	ready, bad := scan("", text)
	if bad != nil {
		return nil, errors.New(bad.Summary)
	}
	if _, diags := hclsyntax.ParseConfig(ready, "", hcl.InitialPos); diags.HasErrors() {
		return nil, errors.New("the mapping has syntax errors; validate shows them")
	}
	out := hclwrite.Format(ready)
	for i, c := range out {
		if c == brace {
			out[i] = '{'
		}
	}
	return out, nil
}
