"""A decision is superseded, never edited: the database holds to it whoever asks."""

from django.db import migrations

KEEP = """
CREATE FUNCTION inchmark_decision_stands() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'a decision is superseded, never edited' USING ERRCODE = 'restrict_violation';
END $$;
CREATE TRIGGER inchmark_decision_stands BEFORE UPDATE ON decide_decision
FOR EACH ROW EXECUTE FUNCTION inchmark_decision_stands();
"""
LET_GO = """
DROP TRIGGER inchmark_decision_stands ON decide_decision;
DROP FUNCTION inchmark_decision_stands();
"""


class Migration(migrations.Migration):
    dependencies = [("decide", "0001_decisions_and_reports")]
    operations = [migrations.RunSQL(KEEP, LET_GO)]
