-- Where on its asset a meter is read, as whoever reads it would find it.
ALTER TABLE meters ADD COLUMN measuring_point TEXT;
