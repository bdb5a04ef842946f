CREATE TABLE "kept" (
	"data_set_id" uuid PRIMARY KEY NOT NULL,
	"version_id" uuid,
	"next_at" timestamp with time zone,
	"failures" integer DEFAULT 0 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "kept_versions" (
	"id" uuid PRIMARY KEY NOT NULL,
	"data_set_id" uuid NOT NULL,
	"true_at" timestamp with time zone NOT NULL,
	"records" bigint NOT NULL,
	"fields" jsonb NOT NULL,
	"spans" jsonb NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "refreshes" (
	"id" uuid PRIMARY KEY NOT NULL,
	"data_set_id" uuid NOT NULL,
	"state" text NOT NULL,
	"started_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone,
	"fetched" bigint DEFAULT 0 NOT NULL,
	"kept" bigint,
	"problem" jsonb,
	"stop_asked" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE TABLE "segments" (
	"hash" text PRIMARY KEY NOT NULL,
	"content" "bytea" NOT NULL,
	"size" bigint NOT NULL,
	"records" bigint NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "version_segments" (
	"version_id" uuid NOT NULL,
	"position" integer NOT NULL,
	"hash" text NOT NULL,
	CONSTRAINT "version_segments_version_id_position_pk" PRIMARY KEY("version_id","position")
);
--> statement-breakpoint
ALTER TABLE "kept" ADD CONSTRAINT "kept_data_set_id_data_sets_id_fk" FOREIGN KEY ("data_set_id") REFERENCES "public"."data_sets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "kept" ADD CONSTRAINT "kept_version_id_kept_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."kept_versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "kept_versions" ADD CONSTRAINT "kept_versions_data_set_id_data_sets_id_fk" FOREIGN KEY ("data_set_id") REFERENCES "public"."data_sets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "refreshes" ADD CONSTRAINT "refreshes_data_set_id_data_sets_id_fk" FOREIGN KEY ("data_set_id") REFERENCES "public"."data_sets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "version_segments" ADD CONSTRAINT "version_segments_version_id_kept_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."kept_versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "version_segments" ADD CONSTRAINT "version_segments_hash_segments_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."segments"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "kept_versions_by_data_set" ON "kept_versions" USING btree ("data_set_id");--> statement-breakpoint
CREATE INDEX "refreshes_by_data_set" ON "refreshes" USING btree ("data_set_id","started_at");--> statement-breakpoint
CREATE INDEX "version_segments_by_hash" ON "version_segments" USING btree ("hash");