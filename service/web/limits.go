package web

import (
	"time"

	"hemble/core/firmware"
)

// Limits of requests.
const (
	MaxBody    = 1 << 20
	MaxUpload  = firmware.MaxFile + 2<<20 // the file, a wiring and the form around them
	MaxTable   = 2 << 20                  // a school's own table
	MaxBulk    = 256 << 20
	KeepAlive  = 15 * time.Second
	Slowest    = 2 * time.Minute // that an answer may take to be read
	CookieName = "hemble_session"
)

// How long a caller may take to send what a call takes.
const (
	SendTime   = 15 * time.Second
	UploadTime = 2 * time.Minute // a file over a slow line
)
