package statistics

import (
	"errors"
	"fmt"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/shares"
)

// What a table leaves open, or says twice, is refused with its reason, every time; nothing is
// assigned by chance.
func TestNothingIsAssignedByChance(t *testing.T) {
	one := func(category, value string) string {
		return fmt.Sprintf(`{"class":"dataset","id":["a"],"size":[2],"dimension":{"a":{"category":%s}},"value":%s}`, category, value)
	}
	const two = `{"index":["x","y"]}`
	for text, why := range map[string]string{
		one(`{"label":{"x":"X","y":"Y"}}`, `[1,2]`): "no_order",
		one(two, `[1]`):                                               "figures",
		one(two, `[1,2,3]`):                                           "figures",
		one(two, `{"0":1,"2":3}`):                                     "figures",
		one(two, `{"0":1,"0":3}`):                                     "figure_twice",
		one(`{"index":["x","x"]}`, `[1,2]`):                           "code_twice",
		one(`{"index":{"x":0,"x":1}}`, `[1,2]`):                       "code_twice",
		one(`{"index":{"x":0,"y":0}}`, `[1,2]`):                       "places",
		one(`{"index":["x","y"],"label":{"x":"X","x":"Z"}}`, `[1,2]`): "code_twice",
		`{"class":"dataset","id":["a","a"],"size":[1,1],"dimension":{"a":{"category":{"index":["x"]}}},"value":[1]}`:                       "dimension_twice",
		`{"class":"dataset","id":["a"],"size":[1],"dimension":{"a":{"category":{"index":["x"]}},"a":{"category":{}}},"value":[1]}`:         "dimension_twice",
		`{"class":"collection","link":{"item":[{"class":"dataset","label":"Tenure"},{"class":"dataset","href":"https://example.org/w"}]}}`: "collection",
		`{"class":"collection","link":{"item":[]}}`: "collection_empty",
		"TENURE,OBS_VALUE,UNIT_MULT\nx,1,many\n":    "power",
	} {
		for range 4 {
			_, err := Parse([]byte(text))
			var e *TableError
			require.ErrorAs(t, err, &e, text)
			assert.Equal(t, why, e.Why, text)
		}
	}
	c, err := Parse([]byte(fmt.Sprintf(`{"class":"collection","link":{"item":[{"class":"dataset","href":"https://example.org/w"},%s]}}`, one(two, `[1,2]`))))
	require.NoError(t, err, "the only one that is whole")
	assert.Len(t, c.Dims, 1)
}

// Parents are totals at any depth; what has no figure, and what is said of one, is told.
func TestHierarchiesAndStatus(t *testing.T) {
	c, err := Parse([]byte(`{"class":"dataset","id":["area"],"size":[5],"dimension":{"area":{"category":{"index":["b","n","s","n1","n2"],
		"label":{"b":"Borough","n":"North","s":"South","n1":"Harbour","n2":"Fenside"},"child":{"b":["n","s"],"n":["n1","n2"]}}}},
		"value":[10,6,4,2,null],"status":{"3":"p","4":":"}}`))
	require.NoError(t, err)
	taken, err := c.Take("area", nil)
	require.NoError(t, err)
	assert.Equal(t, []shares.SetAnswer{{Label: "South", Code: "s", Figure: "4"}, {Label: "Harbour", Code: "n1", Figure: "2"}}, taken.Answers)
	assert.Equal(t, []shares.SetAnswer{{Label: "Borough", Code: "b", Figure: "10"}, {Label: "North", Code: "n", Figure: "6"}}, taken.Totals)
	assert.Equal(t, []Flagged{{"Fenside", ":"}}, taken.Lacking)
	assert.Equal(t, []Flagged{{"Harbour", "p"}}, taken.Flagged)
}

// SDMX-CSV 2.0 with its names in columns of their own, and figures in thousands.
func TestNamesAndPowersOfSDMX(t *testing.T) {
	c, err := Parse([]byte("STRUCTURE,STRUCTURE_ID,STRUCTURE_NAME,ACTION,TENURE,Tenure,TIME_PERIOD,Time,OBS_VALUE,UNIT_MULT,Unit multiplier,OBS_STATUS,Status\n" +
		"dataflow,O:T(1),Homes,I,o,Owns,2025,2025,40.105,3,Thousands,A,Normal\ndataflow,O:T(1),Homes,I,r,Rents,2025,2025,5e1,3,Thousands,P,Provisional\n"))
	require.NoError(t, err)
	require.Len(t, c.Dims, 2)
	assert.Equal(t, "Tenure", c.Dims[0].Label)
	taken, err := c.Take("TENURE", nil)
	require.NoError(t, err)
	assert.Equal(t, []shares.SetAnswer{{Label: "Owns", Code: "o", Figure: "40105"}, {Label: "Rents", Code: "r", Figure: "50000"}}, taken.Answers)
	assert.Equal(t, []Flagged{{"Rents", "P"}}, taken.Flagged)
}

// A head that cannot be costs no memory, whatever stands behind it.
func TestTheHeadIsCheckedFirst(t *testing.T) {
	labels := make([]string, 400_000)
	for i := range labels {
		labels[i] = fmt.Sprintf(`"c%d":"x"`, i)
	}
	raw := []byte(`{"class":"dataset","id":["a"],"size":[3],"dimension":{"a":{"category":{"index":["x","y","z"],"label":{` + strings.Join(labels, ",") + `}}}},"value":[` + strings.Repeat("1,", 500_000) + `1]}`)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	_, err := Parse(raw)
	runtime.ReadMemStats(&after)
	assert.True(t, errors.Is(err, ErrUnreadable))
	assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(10*len(raw)), "bytes allocated for a file of %d", len(raw))
}
