package job

// media calls a function with each reference of a job to a picture or clip of its own.
func (j *Job) media(each func(id *string)) {
	if r := j.Head.Report; r != nil {
		for i := range r.Photos {
			each(&r.Photos[i])
		}
	}
	for i := range j.Plan.Steps {
		for k := range j.Plan.Steps[i].Photos {
			each(&j.Plan.Steps[i].Photos[k].ID)
		}
	}
	for i := range j.Sittings {
		for k := range j.Sittings[i].Photos {
			each(&j.Sittings[i].Photos[k].ID)
		}
	}
	for i := range j.Runs {
		for k := range j.Runs[i].Photos {
			each(&j.Runs[i].Photos[k].ID)
		}
		if v := j.Runs[i].Video; v != nil {
			each(&v.Clip)
			for k := range v.Marks {
				each(&v.Marks[k].Still)
			}
		}
	}
}

// RenameMedia replaces the ids of pictures and clips. The job must not share memory, including its runs, like
// one that was just read.
func (j *Job) RenameMedia(to map[string]string) {
	j.media(func(id *string) {
		if new, ok := to[*id]; ok {
			*id = new
		}
	})
}
