-- Papers of labs with stages belong to one of them; of other labs the stage is empty.
-- A paper's hash holds its stage, so that the same sheets may be handed in for two.

ALTER TABLE paper ADD COLUMN stage TEXT NOT NULL DEFAULT '';
