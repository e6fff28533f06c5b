#!/usr/bin/env bash
# slim.sh ENVIRONMENT: takes out what the packages bring and Bovrin never loads: Qt's other halves and the packages' own tests.
# Reads no list of what there is, so another release of a package may bring more or less.
set -eu
site=$(ls -d "$1"/lib/python3*/site-packages)
qt="$site/PyQt6"
unused='(3D|Bluetooth|Designer|Help|Labs|Nfc|Pdf|Positioning|Qml|Quick|RemoteObjects|Sensors|SerialPort|ShaderTools|SpatialAudio|Sql|StateMachine|TextToSpeech|Web)'
[ ! -d "$qt" ] || {
  find "$qt/Qt6/lib" "$qt" -maxdepth 1 -regextype egrep -regex ".*/(lib)?Qt6?$unused.*" -delete
  rm -rf "$qt/Qt6/qml" "$qt/Qt6/qsci" "$qt/Qt6/translations" "$qt/bindings"
}
find "$site/numpy" "$site/scipy" -type d -name tests -prune -exec rm -rf {} +
