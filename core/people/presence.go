package people

// Presence is that somebody looks at a study in a tab of a browser: at a place, such as a question by its id, ""
// for none in particular; Editing says that they change it.
type Presence struct {
	Tab     string
	StudyID uint64
	Account uint64
	Name    string
	Place   string
	Editing bool
}
