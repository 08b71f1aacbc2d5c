"""A library is imported without what it can do without, and that is still there for whoever asks for it."""

from __future__ import annotations

import subprocess
import sys

import pytest

TOLD = """
import sys
{start}
from fieldstick.data.extras import load_beside, needed
{how}
parquet = needed("pyarrow.parquet", "a Parquet file")
print(*("numpy" in sys.modules, "cloudpickle" in sys.modules, parquet.ParquetWriter.__name__))
import cloudpickle, numpy, pyarrow._s3fs
print(cloudpickle.loads(cloudpickle.dumps(7)), int(numpy.arange(3).sum()))
"""


@pytest.mark.parametrize("how", ["", 'load_beside("pyarrow.parquet")'])
@pytest.mark.parametrize("start", ["import fieldstick.start", ""])
def test_pyarrow_is_imported_lean_on_the_command_line_alone(start: str, how: str) -> None:
    pytest.importorskip("cloudpickle"), pytest.importorskip("numpy")
    ran = subprocess.run(
        [sys.executable, "-c", TOLD.format(start=start, how=how)], capture_output=True, text=True, check=False
    )
    assert ran.returncode == 0, ran.stderr
    first, second = ran.stdout.splitlines()
    numpy, cloudpickle, writer = first.split()
    assert (writer, second) == ("ParquetWriter", "7 3")
    # Started by the command line, neither is there; else whatever PyArrow itself asks for.
    assert cloudpickle == str(not start) and (numpy == "False" or not start)
