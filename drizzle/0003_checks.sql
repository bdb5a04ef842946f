CREATE TABLE "check_results" (
	"data_set_id" uuid NOT NULL,
	"name" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"state" text NOT NULL,
	"failing" text NOT NULL,
	"of" text NOT NULL,
	"found" text NOT NULL,
	CONSTRAINT "check_results_data_set_id_name_pk" PRIMARY KEY("data_set_id","name")
);
--> statement-breakpoint
ALTER TABLE "check_results" ADD CONSTRAINT "check_results_data_set_id_data_sets_id_fk" FOREIGN KEY ("data_set_id") REFERENCES "public"."data_sets"("id") ON DELETE cascade ON UPDATE no action;