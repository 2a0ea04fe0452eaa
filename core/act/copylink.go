package act

func checkCopyLink(*check, *Act, string) Plan {
	return &effectPlan{effect: Effect{Kind: CopyLinkAct}}
}
