package ports

import "context"

// Blobs keeps files by their content.
type Blobs interface {
	// Put keeps a file and gives its hash, SHA-256 in hexadecimal digits: once it returns, a crash does not lose the
	// file.
	Put(ctx context.Context, data []byte) (hash string, err error)
	// Get gives a file by its hash; what is damaged is an error.
	Get(ctx context.Context, hash string) ([]byte, error)
	// Has reports whether a file is there, unread.
	Has(ctx context.Context, hash string) (bool, error)
}
