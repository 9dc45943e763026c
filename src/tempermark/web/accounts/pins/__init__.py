"""Quick change of hands on a shared tablet: PINs, the tablets, short sessions."""
