package region

// scanParts say as which part of a body a scan of a region is judged when its
// unit is guessed (handbook, scans and moulds, section 3).
var scanParts = map[string]string{
	"ear": "ear", "nose": "nose", "hand_back": "hand", "palm": "hand", "knuckle": "hand", "finger": "hand", "foot": "foot",
	"scalp": "head", "neck": "head", "shoulder": "torso", "chest": "torso", "belly": "torso", "back": "torso",
	"upper_arm": "limb", "forearm": "limb", "thigh": "limb", "shin": "limb",
}

// ScanPart is the part of a body as which a scan of the region is judged; a
// region of the face is part of a face.
func (r Region) ScanPart() string {
	if p, known := scanParts[r.Name]; known {
		return p
	}
	return "face"
}
