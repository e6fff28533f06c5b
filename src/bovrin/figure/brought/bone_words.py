"""What the name of a joint says that it is: bones of arms and legs, in the words of several languages."""

from __future__ import annotations

import re
import unicodedata
from enum import StrEnum
from functools import lru_cache
from itertools import pairwise


class Bone(StrEnum):
    """What a joint is in its limb. HELPER: it twists or mends a shape, and is no joint of its own."""

    HELPER = "helper"
    SHOULDER = "shoulder"
    UPPER_ARM = "upper arm"
    FOREARM = "forearm"
    HAND = "hand"
    THIGH = "thigh"
    SHIN = "shin"
    HOCK = "hock"
    FOOT = "foot"
    DIGIT = "digit"
    ARM = "arm"
    LEG = "leg"


_WORDS: tuple[tuple[Bone, str], ...] = (
    (Bone.HELPER, "twist roll helper corrective muscle bulge tweak jiggle hilfs drall torsion ayuda correctif"),
    (
        Bone.DIGIT,
        "thumb finger toe toes digit claw knuckle metacarpal phalanx zehe zeh orteil doigt dedo dito yubi ball daumen"
        " pouce pulgar pollice pinky",
    ),
    (
        Bone.SHOULDER,
        "clavicle clavicula clavicula clavicola clavicule clav collar schluesselbein schlusselbein scapula sakotsu",
    ),
    (
        Bone.FOREARM,
        "forearm lowerarm lowarm loarm armlower armlow elbow radius ulna unterarm ellenbogen ellbogen avantbras avbras coude"
        " antebrazo codo avambraccio gomito antebraco cotovelo hiji zenwan foreleg2 ひじ 肘 前腕",
    ),
    (
        Bone.UPPER_ARM,
        "upperarm uparm armupper armup humerus oberarm brasup hautbras bicep joowan jouwan 上腕",
    ),
    (
        Bone.THIGH,
        "thigh upleg upperleg legupper legup femur hindupper oberschenkel schenkelober cuisse muslo coscia coxa momo"
        " futomomo 太もも",
    ),
    (
        Bone.SHIN,
        "shin calf lowleg lowerleg leglower leglow knee tibia fibula stifle unterschenkel wade knie genou mollet rodilla"
        " pantorrilla ginocchio polpaccio joelho hiza sune ひざ 膝",
    ),
    (Bone.HOCK, "hock tarsus metatarsus metatarsal carpus pastern cannon sprunggelenk garrot jarret"),
    (Bone.HAND, "hand wrist palm handgelenk main poignet mano muneca polso mao pulso tekubi 手首 手"),
    (
        Bone.FOOT,
        "foot ankle paw hoof fetlock fuss fus knoechel knochel pfote huf pied cheville patteav pattear sabot tobillo pie pata"
        " pezuna piede caviglia zampa zoccolo pe tornozelo casco ashikubi 足首",
    ),
    (Bone.SHOULDER, "shoulder schulter epaule hombro spalla ombro kata 肩"),
    (Bone.ARM, "arm bras brazo braccio braco ude 腕"),
    (Bone.LEG, "leg bein jambe patte pierna gamba perna ashi 足"),
    (Bone.DIGIT, "index middle ring little"),
)
_SHORT = 3
"""Letters up to which a word must stand alone; longer ones may be part of what a name says in one go."""


def plain_letters(name: str) -> str:
    """A name without accents and with ss for sharp s."""
    apart = unicodedata.normalize("NFKD", name.replace("ß", "ss"))
    return unicodedata.normalize(
        "NFC", re.sub("[\u0300-\u036f]", "", apart)
    )  # marks of other scripts belong to letters


@lru_cache(maxsize=4096)
def bone_of(words: tuple[str, ...]) -> Bone | None:
    """What the words of a name, small letters, say; two that stand together may be one ("upper", "arm")."""
    letters = [re.sub(r"\d+", "", plain_letters(word)) for word in words]
    joined = {a + b for a, b in pairwise(letters)} | set(letters)
    whole = "".join(letters)
    for bone, known in _WORDS:
        for word in known.split():
            alone = word in joined
            inside = len(word) > _SHORT and word.isascii() and word in whole
            if alone or inside or (not word.isascii() and word in whole):
                return bone
    return None
