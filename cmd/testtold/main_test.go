package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const green = `{"Action":"start","Package":"coldtap/a"}
{"Action":"output","Package":"coldtap/a","Test":"TestOne","Output":"said by one\n"}
{"Action":"pass","Package":"coldtap/a","Test":"TestOne","Elapsed":2.5}
{"Action":"pass","Package":"coldtap/a","Test":"TestOne/part","Elapsed":2.4}
{"Action":"pass","Package":"coldtap/a","Test":"TestTwo","Elapsed":3}
{"Action":"output","Package":"coldtap/a","Output":"PASS\n"}
{"Action":"output","Package":"coldtap/a","Output":"ok  \tcoldtap/a\t5.5s\n"}
{"Action":"pass","Package":"coldtap/a","Elapsed":5.5}
`

const red = `{"Action":"start","Package":"coldtap/b"}
{"Action":"output","Package":"coldtap/b","Test":"TestThree","Output":"three is wrong\n"}
{"Action":"fail","Package":"coldtap/b","Test":"TestThree","Elapsed":1}
{"Action":"output","Package":"coldtap/b","Output":"FAIL\tcoldtap/b\t1s\n"}
{"Action":"fail","Package":"coldtap/b","Elapsed":1}
`

func told(t *testing.T, events string) (string, bool) {
	t.Helper()
	var out strings.Builder
	good, err := tell(strings.NewReader(events), &out)
	require.NoError(t, err)
	return out.String(), good
}

func TestAGreenRunEndsWithItsLastLine(t *testing.T) {
	out, good := told(t, green)
	assert.True(t, good)
	assert.NotContains(t, out, "said by one")
	assert.NotContains(t, out, "part")
	assert.Less(t, strings.Index(out, "3.0 s  a TestTwo"), strings.Index(out, "2.5 s  a TestOne"))
	assert.True(t, strings.HasSuffix(out, "\nok  \tcoldtap/a\t5.5s\n"), out)
}

// A package without tests that ends last is no matter.
func TestAPackageWithoutTestsSaysNothing(t *testing.T) {
	out, good := told(t, green+`{"Action":"start","Package":"coldtap/e"}
{"Action":"output","Package":"coldtap/e","Output":"?   \tcoldtap/e\t[no test files]\n"}
{"Action":"skip","Package":"coldtap/e"}
`)
	assert.True(t, good)
	assert.True(t, strings.HasSuffix(out, "\nok  \tcoldtap/a\t5.5s\n"), out)
}

func TestWhatFailedIsTold(t *testing.T) {
	out, good := told(t, green+red)
	assert.False(t, good)
	assert.Contains(t, out, "three is wrong")
	assert.True(t, strings.HasSuffix(out, "FAIL\tcoldtap/b\t1s\nFAIL\n"), out)
}

// Neither a run that was broken off, nor one in which something can't be built, nor none is green.
func TestWhatBrokeOffIsNotGreen(t *testing.T) {
	out, good := told(t, green+`{"Action":"start","Package":"coldtap/c"}`)
	assert.False(t, good)
	assert.Contains(t, out, "FAIL\tcoldtap/c\tbroke off")
	_, good = told(t, "")
	assert.False(t, good)
	out, good = told(t, `{"ImportPath":"coldtap/d","Action":"build-output","Output":"undefined: x\n"}
{"ImportPath":"coldtap/d","Action":"build-fail"}
`+green)
	assert.False(t, good)
	assert.Contains(t, out, "undefined: x")
}
