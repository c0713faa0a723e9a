package shoptest

func (b *Bench) InWork() (codes []string) {
	var list []struct{ Code string }
	b.As["pip"].Yes("GET", "/api/pieces", nil, &list)
	for _, p := range list {
		codes = append(codes, p.Code)
	}
	return codes
}

func (b *Bench) Found(words string) (codes []string) {
	var hits []struct{ Kind, Code string }
	b.As["pip"].Yes("GET", "/api/search?words="+words, nil, &hits)
	for _, h := range hits {
		codes = append(codes, h.Kind+" "+h.Code)
	}
	return codes
}
