"""What Yapa hands over, a file a format; importing this package registers the exporters."""

from yapa.formats.exports import contacts_csv as contacts_csv
from yapa.formats.exports import motion_csv as motion_csv
from yapa.formats.exports import values_text as values_text
