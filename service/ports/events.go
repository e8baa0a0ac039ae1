package ports

// Events tells open pages and waiting clients.
type Events interface {
	// Changed says that a submission has changed. It does not wait for anybody.
	Changed(submission string)
}
