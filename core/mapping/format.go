package mapping

import (
	"bytes"
	"errors"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/hashicorp/hcl/v2/hclwrite"
)

// Format lays a mapping out anew, as HCL's own library does: indentation, spaces, aligned equals
// signs. What is said, and every comment, stays as it is. A text that HCL cannot read is
// refused, since its layout cannot be known.
func Format(text []byte) ([]byte, error) {
	ready, _, bad := scan("", text)
	if bad != nil {
		return nil, errors.New(bad.Summary)
	}
	if _, diags := hclsyntax.ParseConfig(ready, "", hcl.InitialPos); diags.HasErrors() {
		return nil, errors.New("the mapping has syntax errors; validate shows them")
	}
	even := hclwrite.Format(ready)
	if !bytes.Equal(tokensOf(ready), tokensOf(even)) {
		return nil, errors.New("it cannot be laid out without a change of what it says; it stays as it is")
	}
	for i, c := range even {
		if c == brace {
			even[i] = '{'
		}
	}
	return even, nil
}

// tokensOf is the tokens of a text without the blanks around them.
func tokensOf(text []byte) []byte {
	var all []byte
	tokens, _ := hclsyntax.LexConfig(text, "", hcl.InitialPos)
	for _, t := range tokens {
		all = append(append(all, bytes.TrimRight(t.Bytes, " \t\r\n")...), 0)
	}
	return all
}
