package act

// ReadAgain reads a part of the page or screen again, all of it without one.
type ReadAgain struct {
	Part string `json:"part,omitempty"`
}

func checkReadAgain(c *check, a *Act, at string) Plan {
	effect := Effect{Kind: ReadAgainAct}
	if a.ReadAgain != nil && a.ReadAgain.Part != "" {
		if _, ok := c.part(a.ReadAgain.Part, at+"/read_again/part", "Nothing would be read again."); !ok {
			return nil
		}
		effect.Part = a.ReadAgain.Part
	}
	return &effectPlan{effect: effect}
}
