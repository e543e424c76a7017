package study

import "time"

// Counting is a part of a large column that is to be counted, or was; of part −1 the whole of it.
type Counting struct {
	QuestionID        uint64
	Generation, Slots int
	Part              int
	From, Rows, All   int64 // rows of the part, and of the whole column
	Worker            string
	Result            []byte // nil as long as it is not counted
}

// Arrival is a file that has arrived and is of no study yet, as processes that serve one database tell each other.
type Arrival struct {
	ID           string
	FileID       uint64 // of the kept file that it becomes
	Author, Name string
	Size         int64 // bytes
	ArrivedAt    time.Time
	// Stage, Rows, Done (0 to 1) and Left tell how far the work on it has come.
	Stage string
	Rows  int
	Done  float64
	Left  time.Duration
	// Worker is the process that makes something of it; Silent whether it has not been heard of for long.
	Worker string
	Silent bool
	// Job is what is to be made of it, "" for nothing; StudyID the study that was.
	Job     string
	StudyID *uint64
}
