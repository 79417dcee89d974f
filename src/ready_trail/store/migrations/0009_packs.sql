-- What a part is bought in, and from whom: packs as they are typed ("5 at 9.80, 25 at 38.00").
ALTER TABLE part ADD COLUMN supplier TEXT NOT NULL DEFAULT '' CHECK (length(supplier) <= 120);
ALTER TABLE part ADD COLUMN packs TEXT NOT NULL DEFAULT '' CHECK (length(packs) <= 400);
