BEGIN TRANSACTION;
CREATE TABLE editrecord (
	id INTEGER NOT NULL, 
	study_id INTEGER NOT NULL, 
	label VARCHAR NOT NULL, 
	forward JSON, 
	inverse JSON, 
	undone BOOLEAN NOT NULL, 
	made DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(study_id) REFERENCES studyrecord (id)
);
INSERT INTO "editrecord" VALUES(1,1,'µ 0.2','[{"op": "replace", "path": "/pairs/0/law/mu", "value": 0.2}]','[{"op": "replace", "path": "/pairs/0/law/mu", "value": 0.15}]',0,'2026-11-28 17:34:15.649478');
INSERT INTO "editrecord" VALUES(2,1,'µ 0.3','[{"op": "replace", "path": "/pairs/0/law/mu", "value": 0.3}]','[{"op": "replace", "path": "/pairs/0/law/mu", "value": 0.2}]',1,'2026-11-28 17:34:15.655128');
CREATE TABLE runrecord (
	id INTEGER NOT NULL, 
	study_id INTEGER NOT NULL, 
	revision INTEGER NOT NULL, 
	status VARCHAR NOT NULL, 
	pid INTEGER, 
	resumed_from INTEGER, 
	message VARCHAR NOT NULL, 
	"where" VARCHAR NOT NULL, 
	hint VARCHAR NOT NULL, 
	document JSON, 
	created DATETIME NOT NULL, 
	started DATETIME, 
	ended DATETIME, 
	PRIMARY KEY (id), 
	FOREIGN KEY(study_id) REFERENCES studyrecord (id)
);
INSERT INTO "runrecord" VALUES(1,1,4,'solved',NULL,NULL,'','','','{"format": "ulmek-study", "version": 1, "name": "two-blocks", "title": "Two blocks", "machine": "", "space": "solid", "thickness": "1 mm", "path": "automatic", "notes": "", "element_budget": 200000, "materials": [{"id": "steel", "name": "Steel", "young": "210 GPa", "poisson": 0.3, "yield_stress": "355 MPa", "allowable": null, "density": null, "hardening": null, "rubber": null}], "parts": [{"id": "base", "name": "Base", "recipe": {"kind": "block", "dimensions": {"length": "60 mm", "depth": "60 mm", "height": "20 mm"}, "kept": "whole", "file": null}, "material": "steel", "mesh": {"size": "15 mm", "faces": {}, "edges": {}, "spots": [], "per_turn": 24, "layers": null, "layer_ratio": 1.0, "elements": "bricks"}, "placements": [{"at": ["0 mm", "0 mm", "0.0 mm"], "turn": null}]}, {"id": "slider", "name": "Slider", "recipe": {"kind": "block", "dimensions": {"length": "40 mm", "depth": "40 mm", "height": "10 mm"}, "kept": "whole", "file": null}, "material": "steel", "mesh": {"size": "10 mm", "faces": {}, "edges": {}, "spots": [], "per_turn": 24, "layers": null, "layer_ratio": 1.0, "elements": "bricks"}, "placements": [{"at": ["0 mm", "0 mm", "20 mm"], "turn": null}]}], "pairs": [{"id": "joint", "name": "Slider \u2013 base", "a": ["slider/bottom"], "b": ["base/top"], "wall": null, "law": {"may_open": true, "may_slide": "friction", "mu": 0.2}, "fit": "as-drawn", "interference": "0 mm", "search": "1 mm", "enforcement": {"method": "exact", "allowed": "0.0001 mm", "stiffness": 100.0}, "released": []}], "left_out": [], "bolts": [], "walls": [], "handles": [], "springs": [], "links": [], "supports": [], "loads": [], "steps": [{"id": "press", "name": "Press", "increments": {"start": 0.25, "least": 0.01, "largest": 0.25, "most": 60}, "large_motion": false, "dynamics": null}]}','2026-11-28 17:34:15.664166',NULL,NULL);
INSERT INTO "runrecord" VALUES(2,1,4,'stopped',NULL,1,'stopped before it began.','','','{"format": "ulmek-study", "version": 1, "name": "two-blocks", "title": "Two blocks", "machine": "", "space": "solid", "thickness": "1 mm", "path": "automatic", "notes": "", "element_budget": 200000, "materials": [{"id": "steel", "name": "Steel", "young": "210 GPa", "poisson": 0.3, "yield_stress": "355 MPa", "allowable": null, "density": null, "hardening": null, "rubber": null}], "parts": [{"id": "base", "name": "Base", "recipe": {"kind": "block", "dimensions": {"length": "60 mm", "depth": "60 mm", "height": "20 mm"}, "kept": "whole", "file": null}, "material": "steel", "mesh": {"size": "15 mm", "faces": {}, "edges": {}, "spots": [], "per_turn": 24, "layers": null, "layer_ratio": 1.0, "elements": "bricks"}, "placements": [{"at": ["0 mm", "0 mm", "0.0 mm"], "turn": null}]}, {"id": "slider", "name": "Slider", "recipe": {"kind": "block", "dimensions": {"length": "40 mm", "depth": "40 mm", "height": "10 mm"}, "kept": "whole", "file": null}, "material": "steel", "mesh": {"size": "10 mm", "faces": {}, "edges": {}, "spots": [], "per_turn": 24, "layers": null, "layer_ratio": 1.0, "elements": "bricks"}, "placements": [{"at": ["0 mm", "0 mm", "20 mm"], "turn": null}]}], "pairs": [{"id": "joint", "name": "Slider \u2013 base", "a": ["slider/bottom"], "b": ["base/top"], "wall": null, "law": {"may_open": true, "may_slide": "friction", "mu": 0.2}, "fit": "as-drawn", "interference": "0 mm", "search": "1 mm", "enforcement": {"method": "exact", "allowed": "0.0001 mm", "stiffness": 100.0}, "released": []}], "left_out": [], "bolts": [], "walls": [], "handles": [], "springs": [], "links": [], "supports": [], "loads": [], "steps": [{"id": "press", "name": "Press", "increments": {"start": 0.25, "least": 0.01, "largest": 0.25, "most": 60}, "large_motion": false, "dynamics": null}]}','2026-11-28 17:34:15.749425',NULL,NULL);
CREATE TABLE studyrecord (
	id INTEGER NOT NULL, 
	title VARCHAR NOT NULL, 
	revision INTEGER NOT NULL, 
	document JSON, 
	demo VARCHAR, 
	created DATETIME NOT NULL, 
	updated DATETIME NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "studyrecord" VALUES(1,'Two blocks',4,'{"format": "ulmek-study", "version": 1, "name": "two-blocks", "title": "Two blocks", "machine": "", "space": "solid", "thickness": "1 mm", "path": "automatic", "notes": "", "element_budget": 200000, "materials": [{"id": "steel", "name": "Steel", "young": "210 GPa", "poisson": 0.3, "yield_stress": "355 MPa", "allowable": null, "density": null, "hardening": null, "rubber": null}], "parts": [{"id": "base", "name": "Base", "recipe": {"kind": "block", "dimensions": {"length": "60 mm", "depth": "60 mm", "height": "20 mm"}, "kept": "whole", "file": null}, "material": "steel", "mesh": {"size": "15 mm", "faces": {}, "edges": {}, "spots": [], "per_turn": 24, "layers": null, "layer_ratio": 1.0, "elements": "bricks"}, "placements": [{"at": ["0 mm", "0 mm", "0.0 mm"], "turn": null}]}, {"id": "slider", "name": "Slider", "recipe": {"kind": "block", "dimensions": {"length": "40 mm", "depth": "40 mm", "height": "10 mm"}, "kept": "whole", "file": null}, "material": "steel", "mesh": {"size": "10 mm", "faces": {}, "edges": {}, "spots": [], "per_turn": 24, "layers": null, "layer_ratio": 1.0, "elements": "bricks"}, "placements": [{"at": ["0 mm", "0 mm", "20 mm"], "turn": null}]}], "pairs": [{"id": "joint", "name": "Slider \u2013 base", "a": ["slider/bottom"], "b": ["base/top"], "wall": null, "law": {"may_open": true, "may_slide": "friction", "mu": 0.2}, "fit": "as-drawn", "interference": "0 mm", "search": "1 mm", "enforcement": {"method": "exact", "allowed": "0.0001 mm", "stiffness": 100.0}, "released": []}], "left_out": [], "bolts": [], "walls": [], "handles": [], "springs": [], "links": [], "supports": [], "loads": [], "steps": [{"id": "press", "name": "Press", "increments": {"start": 0.25, "least": 0.01, "largest": 0.25, "most": 60}, "large_motion": false, "dynamics": null}]}',NULL,'2026-11-28 17:34:15.637298','2026-11-28 17:34:15.661107');
CREATE INDEX ix_studyrecord_demo ON studyrecord (demo);
CREATE INDEX ix_editrecord_study_id ON editrecord (study_id);
CREATE INDEX ix_runrecord_study_id ON runrecord (study_id);
CREATE INDEX ix_runrecord_status ON runrecord (status);
COMMIT;
