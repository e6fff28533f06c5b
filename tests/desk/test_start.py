"""What a start loads, counted: an import that grows unseen is a wait before every first picture."""

import json
import subprocess
import sys
from pathlib import Path

MOST_OF_OURS = 385
MOST_OF_OTHERS = 120

CODE = """
import json, sys
from bovrin.desk.application import dressed_application, make_window
app = dressed_application()
window = make_window(None)
window.resize(1280, 800)
window.show()
drawn = lambda: window.stage.main.scene.drawable
while not drawn():
    app.processEvents()
window.grab()
loaded = {name: getattr(module, "__file__", None) for name, module in sorted(sys.modules.items())}
window.close()
print(json.dumps(loaded))
"""


def test_a_start_loads_no_more_than_it_needs() -> None:
    found = subprocess.run([sys.executable, "-c", CODE], capture_output=True, text=True, check=True).stdout
    loaded = json.loads(found.splitlines()[-1])
    heavy = {"scipy", "numpy.ma", "numpy.random", "numpy.fft", "PIL", "pxr", "xml", "multiprocessing", "asyncio"}
    assert heavy & set(loaded) == set(), "loaded when they are first needed, not at the start"
    outside = [
        name for name in loaded if name.partition(".")[0] not in sys.stdlib_module_names
    ]  # Python's own differ by version
    ours = [name for name in outside if name.startswith("bovrin")]
    with_code = [
        name for name in ours if Path(loaded[name]).stat().st_size > 0
    ]  # a folder without code costs next to nothing
    assert len(with_code) <= MOST_OF_OURS
    assert len(outside) - len(ours) <= MOST_OF_OTHERS, "NumPy, Qt, msgspec and moderngl"
