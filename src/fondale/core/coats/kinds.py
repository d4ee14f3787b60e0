"""What coats are for, by their row in the table of coats."""

AGEING = ("enamel_wash", "streaks", "oil", "pigment")
VARNISHES = ("gloss", "satin", "matt")
ADHESIVES = ("ca", "epoxy", "pva")
BUILT = (*ADHESIVES, "paste", "water_resin", "putty")
BY_HAND = (*AGEING, *BUILT, "decal")
