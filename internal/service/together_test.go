package service

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/shares"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/arrivals"
	"widetally/internal/cache"
	"widetally/internal/intake"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/store"
	"widetally/internal/testroom"
)

// together runs all at once and returns their errors.
func together(work ...func() error) []error {
	errs := make([]error, len(work))
	begin := make(chan struct{})
	var wait sync.WaitGroup
	for i, f := range work {
		wait.Go(func() {
			<-begin
			errs[i] = f()
		})
	}
	close(begin)
	wait.Wait()
	return errs
}

func mergeAll(q *QuestionView) DerivedEdit {
	g := survey.Group{Label: "any"}
	for _, r := range q.Frequency.Rows {
		g.Answers = append(g.Answers, r.Slot)
	}
	return DerivedEdit{Wording: "merged", Derivation: survey.Derivation{Rule: survey.Merge, Sources: []uint64{q.ID}, Groups: []survey.Group{g}}}
}

// Two edits at once end as if one had come after the other: every column has the
// study's length, and what is derived counts what its source counts now.
func TestTwoEditsAtOnceLeaveRightFigures(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	file := "ward\n" + strings.Repeat("a\nb\nc\nc\n", 500)
	for round := range 6 {
		st := kept(t, s, file, nil)
		ward := question(t, s, st.ID, "ward")
		id, settings := arrived(t, s, file, nil)
		add := func() error {
			return s.Uploads.Refresh(t.Context(), st.ID, Refresh{ArrivalID: id, Settings: settings, Add: true})
		}
		derive := func() error { _, err := s.Codebooks.AddDerived(t.Context(), st.ID, mergeAll(ward)); return err }
		missing := func() error {
			return s.Codebooks.EditMany(t.Context(), st.ID, BulkEdit{Questions: []Versioned{{ID: ward.ID, Version: ward.Version}}, Missing: map[string]string{"c": "refused"}})
		}
		pair := [][]func() error{{add, derive}, {missing, derive}}[round%2]
		errs := together(pair...)
		require.NoError(t, errs[0])
		if round%2 == 1 && errs[1] != nil {
			refused(t, errs[1], "derivation.group") // c was missing before it could be merged
			continue
		}
		require.NoError(t, errs[1])
		page, err := s.Toplines.Topline(t.Context(), st.ID, nil, Window{})
		require.NoError(t, err)
		want := []string{"any 4000"}
		if round%2 == 0 {
			assert.Equal(t, int64(4000), page.Study.Rows)
		} else {
			require.Positive(t, page.Questions[1].Frequency.Missing, "the missing answer is still counted in what was made of it")
			want = []string{"any 1000"}
		}
		require.Len(t, page.Questions, 2)
		for _, q := range page.Questions {
			require.Nil(t, q.Damaged)
		}
		assert.Equal(t, want, counts(page.Questions[1]), "round %d", round)
	}
}

// Eight editors on different questions of one study, imports side by side, people who
// state claims: nobody is refused for the sake of another, and numbers are given once.
func TestManyAtOnce(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	names := strings.Split("a,b,c,d,e,f,g,h", ",")
	st := kept(t, s, strings.Join(names, ",")+"\n"+strings.Repeat("1,2,1,2,1,2,1,2\n2,1,2,1,2,1,2,1\n", 10), nil)
	var work []func() error
	for i, name := range names {
		q := question(t, s, st.ID, name)
		work = append(work, func() error {
			version := q.Version
			for n := range 5 {
				wording := fmt.Sprint(name, n)
				if err := s.Codebooks.EditQuestion(t.Context(), st.ID, q.ID, version, QuestionEdit{Wording: &wording}); err != nil {
					return err
				}
				version++
			}
			return nil
		}, func() error {
			_, _, err := s.Claims.State(t.Context(), st.ID, expecting(q, shares.Ratio, nil), false)
			return err
		})
		if i%2 == 0 {
			id, settings := arrived(t, s, fmt.Sprintf("x\n%d\n2\n", i), nil)
			work = append(work, func() error {
				_, err := s.Studies.Create(t.Context(), NewStudy{ArrivalID: id, Settings: settings, Name: name})
				return err
			})
		}
	}
	for _, err := range together(work...) {
		assert.NoError(t, err)
	}
	page, err := s.Toplines.Topline(t.Context(), st.ID, nil, Window{})
	require.NoError(t, err)
	numbers := map[int]bool{}
	for i, q := range page.Questions {
		assert.Equal(t, names[i]+"4", q.Wording)
		for _, c := range q.Analyses {
			numbers[c.Number] = true
		}
	}
	assert.Len(t, numbers, len(names))
	list, err := s.Studies.List(t.Context())
	require.NoError(t, err)
	assert.Len(t, list, 1+len(names)/2)
}

// Undo takes back what the person saw as the last edit, and nothing else.
func TestUndoNamesItsEdit(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward\na\nb\na\n", nil)
	q := question(t, s, st.ID, "ward")
	first, second := "Which ward?", "In which ward?"
	require.NoError(t, s.Codebooks.EditQuestion(t.Context(), st.ID, q.ID, 1, QuestionEdit{Wording: &first}))
	page, err := s.Toplines.Topline(t.Context(), st.ID, nil, Window{})
	require.NoError(t, err)
	require.NoError(t, s.Codebooks.EditQuestion(t.Context(), st.ID, q.ID, 2, QuestionEdit{Note: &second}))
	_, err = s.UndoLine.Undo(t.Context(), st.ID, page.Undo.ID)
	var other *OtherEditError
	require.ErrorAs(t, err, &other)
	assert.NotEqual(t, page.Undo.ID, other.Newest.ID)
	assert.Equal(t, second, question(t, s, st.ID, "ward").Note, "nothing was taken back")
	require.NoError(t, undo(t, s, st.ID))
	assert.Empty(t, question(t, s, st.ID, "ward").Note)
}

// As many columns as are promised are kept, whatever their numbers of answers.
func TestFiveThousandColumns(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	var file strings.Builder
	for line := range 12 {
		for c := range intake.MaxColumns {
			if c > 0 {
				file.WriteByte(',')
			}
			if line == 0 {
				fmt.Fprintf(&file, "q%d", c)
			} else {
				fmt.Fprint(&file, 1+line%(2+c%9))
			}
		}
		file.WriteByte('\n')
	}
	st := kept(t, s, file.String(), nil)
	book, err := s.Codebooks.Codebook(t.Context(), st.ID)
	require.NoError(t, err)
	assert.Len(t, book.Questions, intake.MaxColumns)
	assert.Equal(t, "q4999", book.Questions[4999].Name)
}

// A list is not saved over a subgroup, nor the other way round.
func TestPartsKeepTheirKind(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward\na\nb\n", nil)
	q := question(t, s, st.ID, "ward")
	group := survey.Condition{Op: survey.Answered, Question: q.ID}
	id, err := s.Codebooks.SaveSubgroup(t.Context(), st.ID, 0, 0, SubgroupEdit{Name: "all", Condition: group})
	require.NoError(t, err)
	_, err = s.Codebooks.SaveList(t.Context(), st.ID, id, 1, "five points", []ListedAnswer{{Code: "1"}})
	require.ErrorIs(t, err, study.ErrNotFound)
	list, err := s.Codebooks.SaveList(t.Context(), st.ID, 0, 0, "five points", []ListedAnswer{{Code: "1"}})
	require.NoError(t, err)
	_, err = s.Codebooks.SaveSubgroup(t.Context(), st.ID, list, 1, SubgroupEdit{Name: "some", Condition: group})
	require.ErrorIs(t, err, study.ErrNotFound)
	_, err = s.Toplines.Topline(t.Context(), st.ID, nil, Window{})
	assert.NoError(t, err)
}

// A damaged column harms its own question and what is made of it; it is rebuilt from the
// file as it arrived, or from its source, and the rest stays whole throughout.
func TestADamagedColumnIsRebuilt(t *testing.T) {
	t.Parallel()
	dsn := mariadbtest.Database(t)
	s, _ := serviceOn(t, dsn)
	raw, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { raw.Close() })
	// damage changes rows behind the application's back, which then starts anew.
	damage := func(statement string, id uint64) {
		_, err := raw.Exec(statement, id)
		require.NoError(t, err)
		s.base.columns, s.base.counts, s.base.samples, s.base.datasets = cache.New[columnKey, survey.Column](256<<20), cache.New[string, *survey.Distribution](64<<20), cache.New[string, whom](64<<20), newDatasets()
	}
	file := "ward,size\n" + strings.Repeat("a,1\nb,2\nc,1\n", 30_000)
	st := kept(t, s, file, nil)
	id, settings := arrived(t, s, file, nil)
	require.NoError(t, s.Uploads.Refresh(t.Context(), st.ID, Refresh{ArrivalID: id, Settings: settings, Add: true}))
	ward := question(t, s, st.ID, "ward")
	_, err = s.Codebooks.AddDerived(t.Context(), st.ID, mergeAll(ward))
	require.NoError(t, err)
	_, err = s.Codebooks.SaveSubgroup(t.Context(), st.ID, 0, 0, SubgroupEdit{Name: "a", Condition: survey.Condition{Op: survey.AnyOf, Question: ward.ID, Answers: []survey.Slot{ward.Frequency.Rows[0].Slot}}})
	require.NoError(t, err)
	// A design that names it harms nothing but the estimates.
	require.NoError(t, s.Codebooks.SetDesign(t.Context(), st.ID, Design{Drawn: analysis.Drawn{Strata: []analysis.Key{KeyOf(ward.ID)}}}))
	require.NotNil(t, question(t, s, st.ID, "size").Estimates)
	want := map[string][]string{"ward": {"a 60000", "b 60000", "c 60000"}, "size": {"1 120000", "2 60000"}, "ward_merge": {"any 180000"}}
	exactly := map[string]bool{"a piece lost": false, "all lost": false, "a bit flipped": true}
	for name, statement := range map[string]string{
		"a piece lost": "DELETE FROM column_chunks WHERE seq = 2 AND question_id = ?", "all lost": "DELETE FROM column_chunks WHERE question_id = ?",
		"a bit flipped": "UPDATE column_chunks SET data = CONCAT(LEFT(data, 9), 'x', SUBSTR(data, 11)) WHERE seq = 1 AND question_id = ?",
	} {
		t.Run(name, func(t *testing.T) {
			damage(statement, ward.ID)
			page, err := s.Toplines.Topline(t.Context(), st.ID, nil, Window{})
			require.NoError(t, err)
			require.NotNil(t, page.Questions[0].Damaged)
			assert.Equal(t, "ward", page.Questions[0].Damaged.Name)
			require.NotNil(t, page.Design.Problem)
			assert.Equal(t, "http.damaged", page.Design.Problem.Code)
			assert.Nil(t, question(t, s, st.ID, "size").Estimates)
			assert.Equal(t, want["size"], counts(question(t, s, st.ID, "size")))
			assert.Equal(t, want["ward_merge"], counts(question(t, s, st.ID, "ward_merge")), "it has a column of its own")
			assert.Nil(t, page.Subgroups[0].N, "nobody can tell how many")
			check, err := s.Uploads.Check(t.Context(), st.ID)
			require.NoError(t, err)
			assert.NotNil(t, check.Questions[0].Damaged)
			exact, err := s.Answers.Repair(t.Context(), st.ID, ward.ID)
			require.NoError(t, err)
			assert.Equal(t, exactly[name], exact)
			for name, want := range want {
				assert.Equal(t, want, counts(question(t, s, st.ID, name)))
			}
			assert.NotNil(t, question(t, s, st.ID, "size").Estimates)
		})
	}
	// The rows of answers are no column: a lost one, the last or another, is damage, too.
	for _, slot := range []int{1, 2} {
		damage(fmt.Sprintf("UPDATE answers SET slot = slot + 100 WHERE slot = %d AND question_id = ?", slot), ward.ID)
		page, err := s.Toplines.Topline(t.Context(), st.ID, nil, Window{})
		require.NoError(t, err)
		require.NotNil(t, page.Questions[0].Damaged, "slot %d", slot)
		_, err = s.Answers.Repair(t.Context(), st.ID, ward.ID)
		var cannot *InvalidError
		require.ErrorAs(t, err, &cannot)
		assert.Equal(t, "repair.answer_lost", cannot.Code)
		damage(fmt.Sprintf("UPDATE answers SET slot = slot - 100 WHERE slot = %d AND question_id = ?", slot+100), ward.ID)
	}
	// A kind that nobody knows harms its question alone, too.
	damage("UPDATE questions SET kind = 'rumour' WHERE id = ?", ward.ID)
	page, err := s.Toplines.Topline(t.Context(), st.ID, nil, Window{})
	require.NoError(t, err)
	require.NotNil(t, page.Questions[0].Damaged)
	assert.Equal(t, want["size"], counts(question(t, s, st.ID, "size")))
	var cannot *InvalidError
	_, err = s.Answers.Repair(t.Context(), st.ID, ward.ID)
	require.ErrorAs(t, err, &cannot)
	assert.Equal(t, "repair.kind_unknown", cannot.Code)
	damage("UPDATE questions SET kind = 'single' WHERE id = ?", ward.ID)
	merged := question(t, s, st.ID, "ward_merge")
	damage("DELETE FROM column_chunks WHERE question_id = ?", merged.ID)
	_, err = s.Answers.Repair(t.Context(), st.ID, merged.ID)
	require.NoError(t, err)
	assert.Equal(t, want["ward_merge"], counts(question(t, s, st.ID, "ward_merge")), "made anew from its source")

	s.base.kept.Wait() // until both files have been packed
	damage("DELETE FROM source_chunks WHERE seq = 0 AND source_file_id > ?", 0)
	check, err := s.Uploads.Check(t.Context(), st.ID)
	require.NoError(t, err)
	assert.True(t, check.Files[0].Damaged)
	_, _, err = s.Answers.KeptFile(t.Context(), st.ID, check.Files[0].ID)
	var lost *study.FileDamagedError
	require.ErrorAs(t, err, &lost)
	damage("DELETE FROM column_chunks WHERE question_id = ?", ward.ID)
	_, err = s.Answers.Repair(t.Context(), st.ID, ward.ID)
	assert.True(t, errors.As(err, &lost), "nothing to rebuild it from: %v", err)
}

// A file that a process could not pack before it ended is whole meanwhile, and packed by the
// one that starts next; what no study came to need is removed, what another process is at is
// left alone.
func TestKeptFilesAreTakenUp(t *testing.T) {
	t.Parallel()
	for _, refusal := range []error{nil, syscall.EPERM, syscall.EXDEV} { // a disk may have no further names for a file
		t.Run(fmt.Sprint(refusal), func(t *testing.T) { takenUp(t, refusal) })
	}
}

func takenUp(t *testing.T, refusal error) {
	dsn, dir := mariadbtest.Database(t), t.TempDir()
	start := func() *Places {
		rows, err := store.Open(t.Context(), dsn)
		require.NoError(t, err)
		t.Cleanup(func() { rows.Close() })
		s, err := New(rows, nil, nil, Options{ArrivalsDir: dir})
		require.NoError(t, err)
		return s
	}
	first, keptDir := start(), filepath.Join(dir, "kept")
	if refusal != nil {
		first.base.kept.Link = func(from, to string) error { return &os.LinkError{Op: "link", Old: from, New: to, Err: refusal} }
	}
	first.base.kept.Close() // as if it ended right after the study was kept
	text := "ward\n" + strings.Repeat("Harbour\nFenside\n", 200_000)
	st := kept(t, first, text, nil)
	first.base.kept.Wait()
	left, err := os.ReadDir(keptDir)
	require.NoError(t, err)
	require.Len(t, left, 1)
	whole := func(s *Places) {
		t.Helper()
		check, err := s.Uploads.Check(t.Context(), st.ID)
		require.NoError(t, err)
		assert.False(t, check.Files[0].Damaged)
		f, name, err := s.Answers.KeptFile(t.Context(), st.ID, check.Files[0].ID)
		require.NoError(t, err)
		defer os.Remove(f.Name())
		defer f.Close()
		raw, err := io.ReadAll(f)
		require.NoError(t, err)
		assert.Equal(t, "answers.csv", name)
		assert.True(t, text == string(raw), "byte for byte")
	}
	whole(first)

	unused, busy := filepath.Join(keptDir, "unused"), filepath.Join(keptDir, "busy")
	require.NoError(t, os.WriteFile(unused, []byte("a"), 0o600))
	require.NoError(t, os.WriteFile(busy, []byte("a"), 0o600))
	defer locked(t, busy).Close()
	second := start()
	require.NoError(t, second.TakeUp(t.Context()))
	second.base.kept.Wait()
	assert.NoFileExists(t, unused)
	assert.FileExists(t, busy)
	assert.NoFileExists(t, filepath.Join(keptDir, left[0].Name()))
	whole(second)
	whole(first)
}

// locked opens a file and locks it, as another process would.
func locked(t *testing.T, path string) *os.File {
	t.Helper()
	f, err := os.Open(path)
	require.NoError(t, err)
	require.NoError(t, syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB))
	return f
}

// Who keeps a file that is being kept already, as from another tab, is asked to try again, and
// nothing is half kept.
func TestAFileIsKeptOnce(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	id, settings := arrived(t, s, "a\n1\n2\n", nil)
	other := locked(t, filepath.Join(s.base.room.Dir(), id))
	_, err := s.Studies.Create(t.Context(), NewStudy{ArrivalID: id, Settings: settings, Name: "a"})
	require.ErrorIs(t, err, study.ErrBusy)
	list, err := s.Studies.List(t.Context())
	require.NoError(t, err)
	assert.Empty(t, list)
	require.NoError(t, other.Close())
	_, err = s.Studies.Create(t.Context(), NewStudy{ArrivalID: id, Settings: settings, Name: "a"})
	require.NoError(t, err)
}

// Imports have their own bounded share: those beyond it wait and say so, can be given up,
// and keep nobody from the shelf.
func TestImportsWaitTheirTurn(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	var others []func()
	for range 4 {
		other, _ := arrived(t, s, "a\n1\n2\n", nil)
		w, err := s.base.room.Get(t.Context(), other)
		require.NoError(t, err)
		release, err := s.base.room.TurnToKeep(t.Context(), w)
		require.NoError(t, err)
		others = append(others, release)
	}
	id, settings := arrived(t, s, "a\n1\n2\n", nil)
	ended := make(chan error, 1)
	go func() {
		_, err := s.Studies.Create(t.Context(), NewStudy{ArrivalID: id, Settings: settings, Name: "a"})
		ended <- err
	}()
	testroom.Await(t, "it to say that it waits", func() bool {
		p, err := s.Uploads.Progress(t.Context(), id)
		return err == nil && p.Stage == arrivals.Waiting
	})
	_, err := s.Studies.List(t.Context())
	require.NoError(t, err)
	s.Uploads.Discard(t.Context(), id)
	require.ErrorIs(t, <-ended, context.Canceled)
	others[0]()
	kept(t, s, "a\n1\n2\n", nil)
}

// Nothing is begun that could fill the disk, at which the database server would end; what
// was kept before stays and can be read.
func TestAFullDisk(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "a\n1\n2\n1\n", nil)
	id, settings := arrived(t, s, "a\n1\n2\n", nil)
	s.base.room.Reserve = 1 << 60
	_, err := s.Uploads.Arrive(t.Context(), "b.csv", strings.NewReader("b\n1\n"))
	require.ErrorIs(t, err, syscall.ENOSPC)
	_, err = s.Studies.Create(t.Context(), NewStudy{ArrivalID: id, Settings: settings, Name: "a"})
	require.ErrorIs(t, err, syscall.ENOSPC)
	q := question(t, s, st.ID, "a")
	wording := "Which?"
	require.ErrorIs(t, s.Codebooks.EditQuestion(t.Context(), st.ID, q.ID, 1, QuestionEdit{Wording: &wording}), syscall.ENOSPC)
	assert.Equal(t, []string{"1 2", "2 1"}, counts(question(t, s, st.ID, "a")))
	s.base.room.Reserve = 0
	_, err = s.Studies.Create(t.Context(), NewStudy{ArrivalID: id, Settings: settings, Name: "a"})
	require.NoError(t, err, "the file still waits")
}
