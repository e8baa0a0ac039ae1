package build

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What was built is built once more with other words in one of its files, with the others as they were.
func TestBuiltAnew(t *testing.T) {
	const main = "#include <avr/io.h>\n#include \"lamp.h\"\nint main(void)\n{\n\tPORTB = LAMP;\n\tfor (;;)\n\t\t;\n}\n"
	r, err := builder(t).Build(t.Context(), text(t, "main.c", main, "lamp.h", "#define LAMP 1\n", "foot.S", "\tnop\n"),
		numbered20)
	require.NoError(t, err)
	require.NotNil(t, r.Source, "%v", r.Messages)
	assert.Equal(t, map[string]string{"main.c": main, "lamp.h": "#define LAMP 1\n"}, r.Source.Files)
	hash := func(name, to string) [32]byte {
		im, err := r.Source.Build(t.Context(), name, to)
		require.NoError(t, err)
		require.NotNil(t, im)
		return im.Hash()
	}
	same := hash("lamp.h", "#define LAMP 1\n")
	assert.NotEqual(t, same, hash("lamp.h", "#define LAMP 2\n"))
	assert.Equal(t, same, hash("main.c", main))

	im, err := r.Source.Build(t.Context(), "lamp.h", "#define LAMP (\n")
	require.NoError(t, err)
	assert.Nil(t, im, "it is no program")
	im, err = r.Source.Build(t.Context(), "main.c", main+"const char large[40000] = {1};\n"+
		"int use(int i)\n{\n\treturn large[i];\n}\n__attribute__((used)) static int (*keep)(int) = use;\n")
	assert.True(t, err != nil || im == nil, "it does not fit")

	none, err := builder(t).Build(t.Context(), text(t, "main.S", ".global main\nmain:\trjmp main\n"), numbered20)
	require.NoError(t, err)
	require.False(t, none.Failed(), "%v", none.Messages)
	assert.Nil(t, none.Source, "no file is C")
}
