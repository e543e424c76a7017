package designed

import "widetally/core/infer"

// Ends are those of an interval, null where there is none.
type Ends struct {
	Lower *float64 `json:"lower"`
	Upper *float64 `json:"upper"`
}

func ends(i *infer.Interval) Ends {
	if i == nil {
		return Ends{}
	}
	return Ends{&i.Lower, &i.Upper}
}

// CutEnds are those of an interval of a share cut to 0 … 1, and as they were before.
type CutEnds struct {
	Ends
	LowerRaw *float64 `json:"lowerRaw"`
	UpperRaw *float64 `json:"upperRaw"`
}

func cutEnds(i *infer.CutInterval) CutEnds {
	if i == nil {
		return CutEnds{}
	}
	return CutEnds{Ends{&i.Lower, &i.Upper}, &i.LowerRaw, &i.UpperRaw}
}

// confident is estimate ± t se.
func confident(estimate, se float64, df int, confidence float64) Ends {
	return ends(infer.TInterval(estimate, se, float64(df), confidence))
}

// cut is estimate ± t se, cut to 0 … 1.
func cut(share, se float64, df int, confidence float64) CutEnds {
	i := infer.TInterval(share, se, float64(df), confidence)
	if i == nil {
		return CutEnds{}
	}
	c := i.Cut()
	return cutEnds(&c)
}
