-- Segments are compressed already: another attempt takes two thirds of the time in which one is stored.
ALTER TABLE "segments" ALTER COLUMN "content" SET STORAGE EXTERNAL;
