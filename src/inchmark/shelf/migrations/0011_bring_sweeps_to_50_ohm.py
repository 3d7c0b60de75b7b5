"""Sweeps kept with another reference than 50 ohm are brought to it; the file stays as it came."""

import re

from django.db import migrations

_REFERENCE = re.compile(rb"^\s*#[^\n\r!]*?\bR\s+(\d+(?:\.\d+)?)", re.IGNORECASE | re.MULTILINE)


def renormalise(apps, schema_editor):
    for sweep in apps.get_model("shelf", "Sweep").objects.iterator(chunk_size=20):
        found = _REFERENCE.search(bytes(sweep.data)[:20_000])
        ohm = float(found.group(1)) if found else 50.0
        if ohm in (0.0, 50.0):
            continue
        points = []
        for hertz, real, imaginary in sweep.points:
            g = complex(real, imaginary)
            z = ohm * (1 + g) / (1 - g) if g != 1 else complex(1e12)
            at_50 = (z - 50) / (z + 50)
            points.append([hertz, round(at_50.real, 9), round(at_50.imag, 9)])
        sweep.points, sweep.reference_ohm = points, ohm
        sweep.remarks = f"measured in {ohm:g} Ω, brought to 50 Ω"
        sweep.save(update_fields=["points", "reference_ohm", "remarks"])


class Migration(migrations.Migration):

    dependencies = [("shelf", "0010_reference_of_sweeps")]

    operations = [migrations.RunPython(renormalise, migrations.RunPython.noop)]
