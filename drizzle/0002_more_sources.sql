CREATE TABLE "allowances" (
	"source_id" uuid NOT NULL,
	"day" date NOT NULL,
	"spent" integer DEFAULT 0 NOT NULL,
	"told" integer,
	"paused_until" timestamp with time zone,
	CONSTRAINT "allowances_source_id_day_pk" PRIMARY KEY("source_id","day")
);
--> statement-breakpoint
CREATE TABLE "fetched" (
	"key" text PRIMARY KEY NOT NULL,
	"source_id" uuid NOT NULL,
	"true_at" timestamp with time zone NOT NULL,
	"fields" jsonb NOT NULL,
	"spans" jsonb NOT NULL,
	"segments" jsonb NOT NULL,
	"calls" integer DEFAULT 0 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "intake" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"source_id" uuid NOT NULL,
	"digest" text NOT NULL,
	"lines" text NOT NULL,
	"records" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "intake_digest" UNIQUE("source_id","digest")
);
--> statement-breakpoint
CREATE TABLE "rejects" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"data_set_id" uuid NOT NULL,
	"line" bigint NOT NULL,
	"text" text NOT NULL,
	"why" text NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "kept_versions" ADD COLUMN "position" jsonb;--> statement-breakpoint
ALTER TABLE "refreshes" ADD COLUMN "rejected" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "refreshes" ADD COLUMN "calls" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "allowances" ADD CONSTRAINT "allowances_source_id_sources_id_fk" FOREIGN KEY ("source_id") REFERENCES "public"."sources"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "fetched" ADD CONSTRAINT "fetched_source_id_sources_id_fk" FOREIGN KEY ("source_id") REFERENCES "public"."sources"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake" ADD CONSTRAINT "intake_source_id_sources_id_fk" FOREIGN KEY ("source_id") REFERENCES "public"."sources"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rejects" ADD CONSTRAINT "rejects_data_set_id_data_sets_id_fk" FOREIGN KEY ("data_set_id") REFERENCES "public"."data_sets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "fetched_by_time" ON "fetched" USING btree ("true_at");--> statement-breakpoint
CREATE INDEX "intake_by_time" ON "intake" USING btree ("at");--> statement-breakpoint
CREATE INDEX "rejects_by_data_set" ON "rejects" USING btree ("data_set_id","id");