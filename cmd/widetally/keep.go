package main

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"widetally/internal/export"
	"widetally/internal/service"
)

// exportCommand writes one study to a file.
func exportCommand() *cobra.Command {
	var data string
	c := &cobra.Command{
		Use: "export STUDY FILE", Short: "Write a study to a file: all of it as .zip, its recipe as .yaml", Args: exactly(2),
		Example: "  widetally export 1 fernmouth.zip --data .data/serve\n  widetally export 1 recipe.yaml",
		RunE: func(c *cobra.Command, args []string) error {
			id, err := strconv.ParseUint(args[0], 10, 63)
			if err != nil {
				return usageError{fmt.Errorf("%q is no number of a study", args[0])}
			}
			server, err := serverOf(c)
			if err != nil {
				return err
			}
			if server != "" {
				return exportFrom(c, server, args[0], args[1])
			}
			return with(c, data, func(s *service.Places) error {
				take := func(ctx context.Context, id uint64) (*os.File, error) { return s.StudyFiles.StudyFile(ctx, id, nil) }
				if strings.HasSuffix(args[1], ".yaml") || strings.HasSuffix(args[1], ".yml") {
					take = s.StudyFiles.RecipeFile
				} else if !strings.HasSuffix(args[1], ".zip") {
					return usageError{errors.New("a study is written as .zip, its recipe as .yaml")}
				}
				f, err := take(c.Context(), id)
				if err != nil {
					return err
				}
				defer os.Remove(f.Name())
				defer f.Close()
				if err := s.Trails.Left(c.Context(), id, filepath.Base(args[1])); err != nil {
					return err
				}
				return written(args[1], func(w io.Writer) error { _, err := io.Copy(w, f); return err })
			})
		},
	}
	c.Flags().StringVar(&data, "data", ".data/serve", "folder of everything that is kept; nothing else may use it meanwhile")
	serverFlag(c)
	return c
}

// exportFrom writes a study of a server to a file, its recipe, or its report in the form that the ending names.
func exportFrom(c *cobra.Command, server, number, file string) error {
	form := strings.TrimPrefix(filepath.Ext(file), ".")
	path := "/studies/" + number
	switch {
	case form == "zip":
		path += "/file"
	case form == "yaml" || form == "yml":
		path += "/recipe"
	case export.ReportForm(form).MediaType() != "":
		path += "/report/file?form=" + form
	default:
		return usageError{errors.New("a study is written as .zip, its recipe as .yaml, its report as .docx, .odt, .html, .xlsx, .md and the like")}
	}
	body, err := fetch(c, server, path)
	if err != nil {
		return err
	}
	defer body.Close()
	return written(file, func(w io.Writer) error { _, err := io.Copy(w, body); return err })
}

// with opens what is kept in a folder for one piece of work.
func with(c *cobra.Command, data string, work func(s *service.Places) error) error {
	words, err := wordsOf(c)
	if err != nil {
		return err
	}
	s, _, closeAll, err := open(c.Context(), words, data, "", usualMemory)
	if err != nil {
		return err
	}
	defer closeAll()
	return work(s)
}

// backupCommand writes every study to one file.
func backupCommand() *cobra.Command {
	var data string
	c := &cobra.Command{
		Use: "backup FILE.zip", Short: "Write every study to one file", Args: exactly(1),
		Example: "  widetally backup studies.zip --data .data/serve",
		RunE: func(c *cobra.Command, args []string) error {
			return with(c, data, func(s *service.Places) error {
				list, err := s.Studies.List(c.Context())
				if err != nil {
					return err
				}
				err = written(args[0], func(w io.Writer) error {
					out := zip.NewWriter(w)
					for _, st := range list {
						f, err := s.StudyFiles.StudyFile(c.Context(), st.ID, nil)
						if err != nil {
							return fmt.Errorf("%s: %w", st.Name, err)
						}
						entry, err := out.CreateHeader(&zip.FileHeader{Name: fmt.Sprintf("study-%d.zip", st.ID), Method: zip.Store})
						if err == nil {
							_, err = io.Copy(entry, f)
						}
						if err = errors.Join(err, f.Close(), os.Remove(f.Name())); err != nil {
							return err
						}
						fmt.Fprintln(c.ErrOrStderr(), st.Name)
					}
					return out.Close()
				})
				if err == nil {
					fmt.Fprintf(c.ErrOrStderr(), "%d studies in %s\n", len(list), args[0])
				}
				return err
			})
		},
	}
	c.Flags().StringVar(&data, "data", ".data/serve", "folder of everything that is kept; nothing else may use it meanwhile")
	return c
}

// restoreCommand opens every study of a backup, or one study file, beside what is there.
func restoreCommand() *cobra.Command {
	var data string
	c := &cobra.Command{
		Use: "restore FILE.zip", Short: "Open the studies of a backup, or one study file, beside what is there", Args: exactly(1),
		Example: "  widetally restore studies.zip --data .data/new",
		RunE: func(c *cobra.Command, args []string) error {
			z, err := zip.OpenReader(args[0])
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			defer z.Close()
			return with(c, data, func(s *service.Places) error {
				n := 0
				bring := func(name string, r io.Reader) error {
					a, err := s.Uploads.Arrive(c.Context(), name, r)
					if err != nil {
						return err
					}
					st, err := s.StudyFiles.Open(c.Context(), a.ID)
					var refused *service.InvalidError
					if errors.As(err, &refused) {
						return fmt.Errorf("%s: %s", name, s.Words().Say(refused.Message()))
					}
					if err != nil {
						return err
					}
					n++
					fmt.Fprintln(c.ErrOrStderr(), st.Name)
					return nil
				}
				for _, f := range z.File {
					if !strings.HasPrefix(f.Name, "study-") || !strings.HasSuffix(f.Name, ".zip") {
						continue
					}
					r, err := f.Open()
					if err != nil {
						return err
					}
					if err := errors.Join(bring(f.Name, r), r.Close()); err != nil {
						return err
					}
				}
				if n == 0 { // one study by itself
					f, err := os.Open(args[0])
					if err != nil {
						return err
					}
					defer f.Close()
					return bring(args[0], f)
				}
				fmt.Fprintf(c.ErrOrStderr(), "%d studies opened\n", n)
				return nil
			})
		},
	}
	c.Flags().StringVar(&data, "data", ".data/serve", "folder for everything that is kept; nothing else may use it meanwhile")
	return c
}
