package httpapi

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"syscall"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/requestid"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/resultjson"
	"widetally/core/shares"
	"widetally/core/study"
	"widetally/internal/arrivals"
	"widetally/internal/intake"
	"widetally/internal/service"
	"widetally/internal/statistics"
)

// problem is a problem detail (RFC 9457).
type problem struct {
	Type      string `json:"type"`
	Title     string `json:"title"`
	Status    int    `json:"status"`
	Code      string `json:"code"`
	Pointer   string `json:"pointer,omitempty"`
	RequestID string `json:"requestId"`
}

// refusal is an error of this layer. Its text is in the catalogue under
// problem.http.
type refusal struct {
	status int
	code   string
	values map[string]string
}

func (r *refusal) Error() string { return "httpapi: " + r.code }

// retryAfter is in how many seconds who came at a crowded moment may come again.
const retryAfter = "2"

// fail is the one place where errors become answers.
func (s *server) fail(c fiber.Ctx, err error) error {
	s = s.in(c)
	status, code, pointer, values := s.explain(err)
	if code == "http.database_gone" && study.WasKept(c.Context()) {
		code = "http.kept" // what was to be told of it could not be read
	}
	if status >= fiber.StatusInternalServerError {
		s.log.Error("request failed", "id", requestid.FromContext(c), "method", c.Method(), "path", c.Path(), "error", err)
	}
	title := s.words.Text("problem."+code, values)
	if strings.HasPrefix(code, "compute.") && (values["at"] != "" || values["field"] != "") {
		id := "problem.compute_place.entry"
		switch {
		case values["at"] == "":
			id = "problem.compute_place.field"
		case values["field"] != "":
			id = "problem.compute_place.field_entry"
		}
		if !strings.HasPrefix(code, "compute.range") && code != "compute.lacking" && code != "compute.not_computable" {
			title = s.words.Text(id, map[string]string{"problem": title, "at": values["at"], "field": values["field"]})
		}
	}
	p := problem{Type: "about:blank", Title: title, Status: status, Code: code, Pointer: pointer, RequestID: requestid.FromContext(c)}
	c.Status(status)
	c.Set(fiber.HeaderCacheControl, "no-store")
	if status == fiber.StatusServiceUnavailable {
		c.Set(fiber.HeaderRetryAfter, retryAfter)
	}
	// What is left of a refused body must never be read as a further request.
	c.RequestCtx().SetConnectionClose()
	return c.JSON(p, "application/problem+json")
}

func (s *server) explain(err error) (status int, code, pointer string, values map[string]string) {
	var refused *refusal
	var invalid *service.InvalidError
	var unreadable *intake.Problem
	var damaged *study.DamagedError
	var slowed *service.SlowedError
	var file *study.FileDamagedError
	var other *service.OtherEditError
	var framework *fiber.Error
	var input *infer.InputError
	var expected *analysis.SharesError
	var infinite *resultjson.NotFiniteError
	var outside *analysis.RangeError
	var lacking *analysis.MissingError
	var spec *analysis.SpecError
	var table *statistics.TableError
	if errors.As(err, &table) && !errors.Is(err, statistics.ErrBroken) {
		return fiber.StatusUnprocessableEntity, "office.table." + table.Why, "", table.Values
	}
	if status, code, ok := officeStatus(err); ok {
		return status, code, "", nil
	}
	switch {
	case errors.As(err, &outside):
		code = "compute.range"
		if outside.Above {
			code = "compute.range_above"
		}
		return fiber.StatusUnprocessableEntity, code, "/" + outside.Field, map[string]string{"field": outside.Field, "least": outside.Least, "most": outside.Most}
	case errors.As(err, &lacking):
		return fiber.StatusUnprocessableEntity, "compute.lacking", "/" + strings.ReplaceAll(lacking.Field, ".", "/"), map[string]string{"field": lacking.Field}
	case errors.Is(err, errCutShort):
		return fiber.StatusBadRequest, "http.cut_short", "", nil
	case errors.As(err, &refused):
		return refused.status, "http." + refused.code, "", refused.values
	case errors.As(err, &spec):
		return fiber.StatusUnprocessableEntity, spec.Code, spec.Pointer, s.written(spec.Values)
	case errors.As(err, &invalid):
		return fiber.StatusUnprocessableEntity, invalid.Code, invalid.Field, s.written(invalid.Values)
	case errors.As(err, &unreadable):
		return fiber.StatusUnprocessableEntity, "intake." + string(unreadable.Code), "", intakeValues(unreadable)
	case errors.Is(err, study.ErrNotFound):
		return fiber.StatusNotFound, "http.not_found", "", nil
	case errors.Is(err, service.ErrSignIn):
		return fiber.StatusUnauthorized, "http.sign_in", "", nil
	case errors.Is(err, service.ErrPasskey):
		return fiber.StatusUnauthorized, "http.passkey", "", nil
	case errors.As(err, &slowed):
		return fiber.StatusTooManyRequests, "http.slowed", "", map[string]string{"seconds": strconv.Itoa(int(slowed.Wait.Seconds()) + 1)}
	case errors.Is(err, study.ErrNotAllowed):
		return fiber.StatusForbidden, "http.not_allowed", "", nil
	case errors.Is(err, study.ErrStale):
		return fiber.StatusPreconditionFailed, "http.stale", "", nil
	case errors.Is(err, arrivals.ErrTooLarge) && s.Uploads.MaxUpload() == 0:
		return fiber.StatusInsufficientStorage, "http.disk_full", "", nil
	case errors.Is(err, arrivals.ErrTooLarge):
		return fiber.StatusRequestEntityTooLarge, "http.too_large", "", map[string]string{"most": strconv.FormatInt(s.Uploads.MaxUpload()>>20, 10)}
	case errors.As(err, &damaged):
		return fiber.StatusConflict, "http.damaged", "", map[string]string{"name": damaged.Name}
	case errors.As(err, &file):
		return fiber.StatusConflict, "http.file_damaged", "", map[string]string{"name": file.Name}
	case errors.As(err, &other):
		return fiber.StatusConflict, "http.other_edit", "", map[string]string{"edit": s.say(document.Say("history."+other.Newest.Title, other.Newest.Values))}
	case errors.Is(err, study.ErrUnsure):
		return fiber.StatusServiceUnavailable, "http.unsure", "", nil
	case errors.Is(err, study.ErrPacking):
		return fiber.StatusServiceUnavailable, "http.packing", "", nil
	case errors.Is(err, study.ErrTooMuch):
		return fiber.StatusInsufficientStorage, "http.too_much", "", nil
	case errors.Is(err, study.ErrGone):
		return fiber.StatusServiceUnavailable, "http.database_gone", "", nil
	case errors.Is(err, study.ErrFull), errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return fiber.StatusInsufficientStorage, "http.disk_full", "", nil
	case errors.Is(err, service.ErrCrowded):
		return fiber.StatusServiceUnavailable, "http.crowded", "", nil
	case errors.Is(err, study.ErrBusy):
		return fiber.StatusServiceUnavailable, "http.busy", "", nil
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled):
		return fiber.StatusServiceUnavailable, "http.timeout", "", nil
	case errors.As(err, &input):
		values = map[string]string{}
		var asked *fieldError
		if errors.As(err, &asked) && asked.field != "" {
			values["field"], pointer = asked.field, "/"+asked.field
		}
		if input.Index >= 0 {
			values["at"] = strconv.Itoa(input.Index + 1)
			if pointer != "" {
				pointer += "/" + strconv.Itoa(input.Index)
			}
		}
		return fiber.StatusUnprocessableEntity, "compute." + string(input.Reason), pointer, values
	case errors.As(err, &expected):
		a := expected.Aligned
		return fiber.StatusUnprocessableEntity, shares.ProblemCode(a, a.Problems[0]), "", shares.ProblemValues(a, numbered(len(a.Figures)), a.Problems[0])
	case errors.As(err, &infinite):
		return fiber.StatusUnprocessableEntity, "compute.not_computable", "", map[string]string{"field": infinite.Field}
	case errors.As(err, &framework):
		switch framework.Code {
		case fiber.StatusNotFound:
			return framework.Code, "http.not_found", "", nil
		case fiber.StatusMethodNotAllowed:
			return framework.Code, "http.method", "", nil
		case fiber.StatusRequestEntityTooLarge:
			return framework.Code, "http.body_too_large", "", nil
		}
		if framework.Code < fiber.StatusInternalServerError {
			return framework.Code, "http.bad_json", "", map[string]string{"text": framework.Message}
		}
	}
	return fiber.StatusInternalServerError, "http.internal", "", nil
}

// written writes the values of a refusal.
func (s *server) written(values document.Values) map[string]string {
	out := map[string]string{}
	for name, v := range values {
		out[name] = s.words.Write(v)
	}
	return out
}

// numbered names answers by their place.
func numbered(n int) []shares.Name {
	names := make([]shares.Name, n)
	for i := range names {
		names[i].Label = strconv.Itoa(i + 1)
	}
	return names
}

// unknownQuery refuses what stands in the query and cannot.
func unknownQuery(name, text string) error {
	return &refusal{status: fiber.StatusUnprocessableEntity, code: "query", values: map[string]string{"name": name, "text": text}}
}

// id reads a number from the path.
func id(c fiber.Ctx, name string) (uint64, error) {
	n, err := strconv.ParseUint(c.Params(name), 10, 63)
	if err != nil || n == 0 {
		return 0, &refusal{status: fiber.StatusNotFound, code: "bad_id", values: map[string]string{"text": name}}
	}
	return n, nil
}

// ids reads the study's number and another one.
func ids(c fiber.Ctx, name string) (studyID, other uint64, err error) {
	if studyID, err = id(c, "study"); err != nil {
		return 0, 0, err
	}
	other, err = id(c, name)
	return studyID, other, err
}

// version reads If-Match, the version on which an edit builds.
func version(c fiber.Ctx) (int, error) {
	n, err := strconv.Atoi(strings.Trim(c.Get(fiber.HeaderIfMatch), `"`))
	if err != nil || n < 1 {
		return 0, &refusal{status: fiber.StatusPreconditionRequired, code: "no_version"}
	}
	return n, nil
}

func etag(c fiber.Ctx, version int) { c.Set(fiber.HeaderETag, `"`+strconv.Itoa(version)+`"`) }

func intakeValues(p *intake.Problem) map[string]string {
	return map[string]string{"line": strconv.Itoa(p.Line), "column": strconv.Itoa(p.Column), "found": strconv.Itoa(p.Found), "wanted": strconv.Itoa(p.Wanted), "text": p.Text}
}
