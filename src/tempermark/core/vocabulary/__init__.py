"""The codes of formats/vocabulary.md. Add codes; never rename them.

Those of symptoms, facts, causes and checks are the tables of `diagnosis/knowledge/`.
"""
