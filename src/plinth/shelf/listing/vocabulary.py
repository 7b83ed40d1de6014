"""The words of a listing in English, German, French, Spanish and Italian, as parts of patterns."""

GAIN = r"(?:gain|verst(?:ä|ae)rkung|ganancia|guadagno)"
TIMES = r"(?:x|times|V/V|-?\s?fach|fois|veces|volte)"
SENSITIVITY = r"(?:sensitivity|empfindlichkeit|sensibilit(?:é|à)|sensibilidad)"
INPUT_RESISTANCE = (
    r"(?:input (?:impedance|resistance)|eingangs(?:widerstand|impedanz)|imp(?:é|e)dance d['’]entr(?:é|e)e"
    r"|impedancia de entrada|impedenza (?:d['’]|di )ingresso)"
)
RESPONSE = (
    r"(?:response|bandwidth|frequenzgang|(?:ü|ue)bertragungsbereich|bande passante|r(?:é|e)ponse|respuesta(?: en "
    r"frecuencia)?|risposta(?: in frequenza)?)"
)
QUIESCENT = r"(?:quiescent|ruhestrom|courant de repos|(?:corriente de )?reposo|(?:corrente di )?riposo)"
SLEW = (
    r"(?:slew(?: ?rate)?|anstiegsgeschwindigkeit|vitesse de (?:balayage|mont(?:é|e)e)|velocidad de subida"
    r"|velocit(?:à|a) di salita)"
)
OFFSET = r"(?:offset|d(?:é|e)calage(?: continu)?)"
EFFICIENCY = r"(?:efficiency|wirkungsgrad|rendement|rendimiento|eficiencia|efficienza|rendimento)"
SWITCHING = (
    r"(?:switching(?: frequency)?|clock|carrier|schaltfrequenz|taktfrequenz|fr(?:é|e)quence de "
    r"(?:d(?:é|e)coupage|commutation)|frecuencia de conmutaci(?:ó|o)n|frequenza di commutazione)"
)
LEAST = r"(?:min(?:imum|imal|imale|imo|imum|ima|\.)?|lowest|mindest)"
MOST = r"(?:max(?:imum|imal|imale|ima|imo|\.)?|m(?:á|a)xim[ao]|massim[ao]|h(?:ö|oe)chstens|up to|bis zu)"
LOAD = (
    r"(?:loads?|speakers?|loudspeakers?|last|lautsprecher|charge|haut-parleurs?|enceintes?|carga|altavoces|carico"
    r"|altoparlanti)"
)
ACROSS = r"(?:across|over|on|at|aux bornes de|sur|(?:ü|ue)ber|an|en|sobre|su|ai capi di)"
TO = r"(?:to|bis|à|a|hasta|fino a|-|–|~|\.\.+|…)"
SUPPLY = (
    r"(?:supply|voltage|vcc|dc|netz(?:teil|gerät)?|versorgung|betriebsspannung|spannung|alimentation|alimentaci(?:ó|o)n"
    r"|alimentazione|tensi(?:on|ón|one))"
)
SINGLE = r"(?:single|einfach|einzel|simple|singola|unica)"
RIPPLE = (
    r"(?:ripple(?: current)?|brummstrom|rippelstrom|ondulation|courant ondul(?:é|e)|(?:corriente de )?rizado"
    r"|ondulazione)"
)
PRIMARY = r"(?:primary|input|mains|prim(?:ä|ae)r|eingang|primaire|entr(?:é|e)e|primario|entrada|ingresso)"
SECONDARY = r"(?:secondar(?:y|ies)|sekund(?:ä|ae)r|secondaires?|secundarios?|secondari[o]?)"
TWO = r"(?:dual|two|twin|zwei(?: ?mal)?|doppelt?e?|deux|double|dos|doble|due|doppio)"
REGULATION = r"(?:regulation|regelung|r(?:é|e)gulation|regulaci(?:ó|o)n|regolazione)"
TOROID = r"\b(?:toroid(?:al|ale)?|toroide|ringkern\w*|toriques?)\b"
LAMINATED = r"\bEI\b(?:[- ]core)?|\blaminated\b"
DISTORTION = r"(?:THD(?:\s*\+\s*N)?|DHT|distortion|klirr(?:faktor)?|distorsion|distorsi(?:ó|o)n|distorsione)"
# Watts that are no output: what a supply should give, what is lost, and sums that nobody measures.
NO_OUTPUT = (
    r"(?:power supply|supply of|psu|consum|dissipat|idle|standby|netzteil|verbrauch|verlust|leerlauf|alimentation de"
    r"|consommation|fuente de|alimentatore da|PMPO|music|musik)"
)
MUSIC = (
    r"(?:\bPMPO\b|\b(?:peak )?music(?:al)? power\b|musikleistung|puissance musicale|potencia musical|potenza musicale)"
)
CLASS = r"(?:class|klasse|classe|clase)"
FULL_BRIDGE = (
    r"(?:full[- ]bridge|\bBTL\b|bridge[d]?[- ]tied"
    r"|voll-?br(?:ü|ue)cke|br(?:ü|ue)ckenendstufe|pont complet|puente completo"
    r"|(?:salida en |en )puente|ponte intero|(?:uscita a |a )ponte\b)"
)
HALF_BRIDGE = r"(?:half[- ]bridge|halbbr(?:ü|ue)cke|demi-pont|medio puente|mezzo ponte)"
