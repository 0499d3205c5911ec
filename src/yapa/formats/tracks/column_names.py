"""Names of columns: which word says which role, and which say that a column is no position.

Names are compared as plain letters (``units.plain``): lower case, no accents, parted by underscores. A position is named by its
axis alone or with words around it that mean *position* (``pos_x``, ``x coordinate``, ``koordinate x``).
"""

from __future__ import annotations

import re

from yapa.case.importing import Role
from yapa.formats.units import UNITS, Kind, find_unit, plain


def _words(text: str) -> frozenset[str]:
    return frozenset(text.split())


_EXACT: dict[Role, str] = {
    "time": "t time times timestamp time_stamp clock elapsed elapsed_time zeit zeitpunkt messzeit temps instant tiempo tempo tijd "
            "czas",
    "frame": "frame frames frame_number frame_no frame_id f index idx i n no nr step bild bildnummer image trame fotograma cuadro "
             "quadro fotogramma beeld klatka",
    "qw": "qw quat_w quatw orientation_w rot_w q0",
    "qx": "qx quat_x quatx orientation_x rot_x q1",
    "qy": "qy quat_y quaty orientation_y rot_y q2",
    "qz": "qz quat_z quatz orientation_z rot_z q3",
    "angle": "angle theta phi rotation rot pitch winkel drehwinkel angulo angolo hoek kat",
    "x": "x px tx horizontal",
    "y": "y py ty",
    "z": "z pz tz height h elevation vertical altitude hohe hoehe hauteur altura altezza hoogte wysokosc",
    "body": "body object id name track label particle marker target korper koerper objekt corps objet cuerpo objeto corpo oggetto "
            "lichaam voorwerp cialo obiekt",
}
_ROLES: dict[str, Role] = {name: role for role, names in _EXACT.items() for name in names.split()}
_POSITION = _words(
    "pos position positions coord coordinate coordinates coords koordinate koord loc location place lage ort posizione "
    "posicion posicao positie pozycja coordenada coordinata coordonnee coordinaat wspolrzedna center centre centro centrum "
    "mitte mittelpunkt point punkt punto ponto axis achse axe eje asse eixo os in en of the der des le la el"
)
NO_POSITION = _words(
    "confidence score area quality temperature temp likelihood probability prob visibility visible valid validity flag "
    "status brightness intensity contrast speed velocity v vx vy vz acceleration acc ax ay az force fx fy fz mass weight "
    "pressure humidity voltage energy power radius diameter error residual sigma std uncertainty count comment note camera "
    "wx wy wz omega spin yaw roll konfidenz gute guete flache flaeche temperatur geschwindigkeit beschleunigung qualitat "
    "qualitaet masse druck confiance qualite aire vitesse pression confianza calidad velocidad aceleracion temperatura "
    "presion confianca qualidade velocidade aceleracao pressao confidenza qualita velocita accelerazione pressione "
    "betrouwbaarheid kwaliteit snelheid temperatuur druk pewnosc jakosc predkosc cisnienie"
)
"""Names of columns that are left out without a question."""


def split_name(cell: str) -> tuple[str, str | None]:
    """Return a header cell as a plain name and its unit as it stands there: ``x (mm)``, ``t [s]``, ``time_ms``, ``height/m``,
    ``angle in
    deg``. In brackets, behind a slash, "in" or a comma stands a unit, known or not; at the tail of a name only one that is known.

    Parameters
    ----------
    cell : text of the cell
    """
    text = cell.strip().strip('"').strip()
    found = re.match(r"^(.*?)[\s_]*(?:\[\s*([^\[\]]+?)\s*\]|\(\s*([^()]+?)\s*\)|/\s*(\S+)|\s[iI][nN]\s+(\S+)|[,:]\s*(\S+))$", text)
    if found:
        unit = next(g for g in found.groups()[1:] if g)
        if plain(unit) in "xyz":  # "position (x)", "position in x"
            return _name(f"{found[1]} {unit}"), None
        return _name(found[1]), unit
    tail = re.match(r"^(.+?)[\s_-]+([^\s_\-]+)$", text)
    if tail and find_unit(tail[2]) is not None:
        return _name(tail[1]), tail[2]
    name = _name(text)
    symbol = find_unit(text)
    if symbol is not None and name not in _ROLES:  # a column that is called "ms" or "Sekunden" holds times
        return ("time" if UNITS[symbol].kind is Kind.TIME else name), text
    return name, None


def _name(text: str) -> str:
    return re.sub(r"[\s\-.]+", "_", plain(text).strip(" _:;.-"))


def role_of(name: str) -> Role | None:
    """Return the role that a plain name says, None where it says none.

    Parameters
    ----------
    name : its name
    """
    if name in _ROLES:
        return _ROLES[name]
    words = [word for word in name.split("_") if word]
    axes = [word for word in words if word in ("x", "y", "z")]
    if len(axes) == 1 and set(words) - {axes[0]} <= _POSITION:
        return axes[0]  # type: ignore[return-value]
    if len(words) == 1 and (joined := re.fullmatch(r"([xyz])([a-z]+)|([a-z]+)([xyz])", name)):
        axis, rest = (joined[1], joined[2]) if joined[1] else (joined[4], joined[3])
        if rest in _POSITION and len(rest) > 2:
            return axis  # type: ignore[return-value]
    return None


def is_no_position(name: str) -> bool:
    """Return whether a plain name says that its column holds no position.

    Parameters
    ----------
    name : its name
    """
    return name in NO_POSITION or any(word in NO_POSITION for word in name.split("_")[:1])
