"""Words for the parts of a body, in English, German, French, Spanish, Italian, Dutch and Finnish.

All without accents and in small letters, as `names.words` gives them.
"""

from __future__ import annotations

from sorvan.core.model.puppet import Role

_BY_ROLE: dict[Role, str] = {
    "pelvis": "pelvis hips hip waist becken hufte hueft bassin bacino cadera bekken heup lantio",
    "spine": (
        "spine torso chest body trunk ribs korper rumpf oberkorper brust torse tronc corps buste "
        "cuerpo pecho tronco busto corpo petto romp lichaam borst vartalo rinta"
    ),
    "neck": "neck hals cou cuello collo nek kaula",
    "head": "head skull kopf tete cabeza testa hoofd paa",
    "upper arm": ("upperarm shoulder bicep oberarm schulter epaule hombro spalla bovenarm schouder olkavarsi olkapaa"),
    "lower arm": (
        "forearm lowerarm elbow unterarm ellbogen coude antebrazo codo avambraccio gomito "
        "onderarm elleboog kyynarvarsi kyynarpaa"
    ),
    "hand": "hand wrist palm main mano kasi",
    "thigh": "thigh upperleg oberschenkel cuisse muslo coscia bovenbeen dij reisi",
    "shin": (
        "shin calf lowerleg knee unterschenkel knie mollet tibia genou pantorrilla rodilla "
        "polpaccio stinco ginocchio onderbeen scheen kuit saari polvi"
    ),
    "foot": "foot shoe boot ankle paw fus fuss pied pie piede voet jalkatera",
    "toe": "toe toes zehe zehen orteil orteils teen tenen varvas",
    "wing": "wing flugel aile ala vleugel siipi",
    "tail": "tail schwanz queue staart hanta",
}
ROLES: dict[str, Role] = {word: role for role, listed in _BY_ROLE.items() for word in listed.split()}
"""The role that a word stands for."""
WHOLE_LIMBS: dict[str, Role] = {
    **dict.fromkeys(["arm", "bras", "brazo", "braccio", "kasivarsi"], "upper arm"),
    **dict.fromkeys(["leg", "bein", "jambe", "pierna", "gamba", "been", "jalka"], "thigh"),
}
"""The role of what is called by the name of a whole limb: where it begins."""
AMBIGUOUS = frozenset(["main", "pie", "ala", "been", "teen", "dij"])
"""Words that mean a part of the body only beside a word of their own language for left or right."""
NATIVE = frozenset(
    [
        "gauche",
        "droite",
        "droit",
        "izquierda",
        "izquierdo",
        "derecha",
        "derecho",
        "izq",
        "der",
        "sinistra",
        "sinistro",
        "destra",
        "destro",
        "links",
        "rechts",
        "linker",
        "rechter",
        "linke",
        "rechte",
    ]
)
"""Words for left and right that are of one language only."""
LIMBS = frozenset(
    word for word, role in ROLES.items() if role not in ("pelvis", "spine", "neck", "head", "tail")
) | frozenset(("hip", "fingers", "finger", "thumb", "feet", "heel", "limb", *WHOLE_LIMBS))
"""Words that make a name the name of a limb, of which there are two."""
WORN = frozenset(
    [
        "pad",
        "strap",
        "button",
        "pocket",
        "band",
        "guard",
        "lace",
        "handle",
        "ring",
        "rings",
        "bag",
        "handbag",
        "watch",
        "wristwatch",
        "bracelet",
        "bangle",
        "cuff",
        "nail",
        "nails",
        "tattoo",
        "patch",
        "brace",
        "belt",
        "buckle",
        "chain",
        "necklace",
        "tie",
        "scarf",
        "headband",
        "armband",
        "anklet",
        "print",
        "rail",
        "chair",
        "stool",
        "warmer",
        "light",
        "mirror",
        "phones",
        "headphones",
        "headset",
        "glasses",
        "hat",
        "cap",
        "helmet",
        "crown",
        "feather",
        "coat",
        "case",
        "suitcase",
        "briefcase",
        "basket",
        "bucket",
        "purse",
        "wallet",
        "lantern",
        "lamp",
        "torch",
        "whistle",
        "umbrella",
        "cane",
        "stick",
        "crutch",
        "sword",
        "shield",
        "cup",
        "mug",
        "glass",
        "bottle",
        "flag",
        "book",
        "ticket",
        "tickets",
        "key",
        "keys",
        "rope",
        "bell",
        "ball",
        "balloon",
        "phone",
        "camera",
        "tool",
        "hammer",
        "ring",
        "armring",
        "tasche",
        "uhr",
        "kette",
        "sac",
        "sacoche",
        "bague",
        "montre",
        "bolso",
        "anillo",
        "reloj",
        "borsa",
        "anello",
        "orologio",
        "tas",
        "horloge",
        "laukku",
        "sormus",
        "kello",
    ]
)
"""Words that turn the name of a limb into the name of something worn on it or held by it."""
