module hemble

go 1.26.0

require (
	github.com/schollz/progressbar/v3 v3.19.1
	github.com/stretchr/testify v1.12.1
	github.com/urfave/cli/v3 v3.14.0
	golang.org/x/term v0.47.0
)

require (
	github.com/mitchellh/colorstring v0.0.0-20190213212951-d06e56a500db // indirect
	github.com/rivo/uniseg v0.4.7 // indirect
	go.yaml.in/yaml/v3 v3.0.5
	golang.org/x/sys v0.49.0 // indirect
)
