package docs_test

import (
	"os"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Specs that the application reads fit the published schema, and what it refuses for its
// form does not.
func TestSpecsFitTheirSchema(t *testing.T) {
	raw, err := os.ReadFile("formats/spec.schema.json")
	require.NoError(t, err)
	document, err := jsonschema.UnmarshalJSON(strings.NewReader(string(raw)))
	require.NoError(t, err)
	compiler := jsonschema.NewCompiler()
	require.NoError(t, compiler.AddResource("spec.schema.json", document))
	schema, err := compiler.Compile("spec.schema.json")
	require.NoError(t, err)
	for spec, fits := range map[string]bool{
		`{"method":"goodness-of-fit","version":1,"questions":["7"],"subgroup":"3","settings":{"shares":{"scale":"ratio","figures":[{"code":"a","figure":"1/3"}],"source":{"kind":"theory","title":"x"}},"role":"alternative","level":0.01}}`: true,
		`{"method":"one-proportion","version":1,"questions":["caddy"],"settings":{"success":["a"],"claimed":"62 %","direction":"less","role":"null","level":"5 %","source":{}}}`:                                                             true,
		`{"method":"crosstab","version":1,"questions":["7","8"],"settings":{"reading":"column","show":["expected"],"test":{"role":"null","level":0.05,"exact":true}}}`:                                                                       true,
		`{"method":"crosstab","version":1,"questions":["7","8"],"settings":{"reading":"row"}}`:                                                                                                                                               true,
		`{"method":"crosstab","version":1,"questions":["7"],"settings":{"reading":"row"}}`:                                                                                                                                                   false,
		`{"method":"crosstab","version":2,"questions":["7","8"],"settings":{"reading":"row"}}`:                                                                                                                                               false,
		`{"method":"crosstab","version":1,"questions":["7","8"],"settings":{"reading":"row","rows":1}}`:                                                                                                                                      false,
		`{"method":"guess","version":1,"questions":["7"],"settings":{}}`:                                                                                                                                                                     false,
	} {
		value, err := jsonschema.UnmarshalJSON(strings.NewReader(spec))
		require.NoError(t, err)
		assert.Equal(t, fits, schema.Validate(value) == nil, "%s: %v", spec, schema.Validate(value))
	}
}
