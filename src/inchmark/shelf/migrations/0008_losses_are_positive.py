"""Losses of budgets turn positive, ladders in use become foreign keys, datasheets keep their PER."""

from django.db import migrations
from django.db.models import F

LOSSES = (
    "carried_feed", "carried_mismatch", "carried_housing", "carried_carry", "path_polarisation",
    "fixed_feed", "fixed_housing",
)
SAME_DB = 1e-6  # a level in use was copied from its ladder


def turn_losses(apps, schema_editor):
    items = apps.get_model("shelf", "BudgetItem").objects.filter(key__in=LOSSES)
    items.update(db=-F("db"))


def name_what_ladders_were_measured_with(apps, schema_editor):
    for check in apps.get_model("shelf", "ConductedCheck").objects.select_related("rig"):
        check.measured_with = _measured_with(check.rig)
        check.save(update_fields=["measured_with"])


def _measured_with(rig):
    names = {"oqpsk": "IEEE 802.15.4 O-QPSK", "le_1m": "Low Energy 1M", "le_2m": "Low Energy 2M",
             "le_coded_s8": "Low Energy coded S=8", "le_coded_s2": "Low Energy coded S=2"}
    setting = names.get(rig.modulation, "")
    if rig.modulation == "chirp":
        setting = f"SF{rig.spreading_factor}"
    if rig.modulation == "gfsk":
        setting = f"{(rig.bit_rate_bit_s or 0) / 1e3:g} kbit/s"
    coding = f", 4/{rig.coding_rate}" if rig.modulation == "chirp" else ""
    spread = f", ±{rig.deviation_hz / 1e3:g} kHz" if rig.deviation_hz else ""
    return f"{rig.module}, {setting}, {rig.bandwidth_hz / 1e3:.6g} kHz{coding}{spread}"


def point_to_ladders_in_use(apps, schema_editor):
    for rig in apps.get_model("shelf", "Rig").objects.filter(conducted_dbm__isnull=False):
        for check in rig.conducted_checks.order_by("-pk"):
            half = (check.reading or {}).get("half_lost") or {}
            if abs((half.get("estimate") or 1e9) - rig.conducted_dbm) < SAME_DB:
                rig.conducted = check
                rig.save(update_fields=["conducted"])
                break


def take_packet_error_rates_over(apps, schema_editor):
    for rig in apps.get_model("shelf", "Rig").objects.filter(sensitivity_source__contains=" % PER"):
        words = rig.sensitivity_source.split(",")[-1].replace("% PER", "").strip()
        rig.sensitivity_per_percent = float(words)
        rig.save(update_fields=["sensitivity_per_percent"])


class Migration(migrations.Migration):

    dependencies = [("shelf", "0007_thresholds_in_use")]

    operations = [
        migrations.RunPython(turn_losses, turn_losses),
        migrations.RunPython(name_what_ladders_were_measured_with, migrations.RunPython.noop),
        migrations.RunPython(point_to_ladders_in_use, migrations.RunPython.noop),
        migrations.RunPython(take_packet_error_rates_over, migrations.RunPython.noop),
    ]
