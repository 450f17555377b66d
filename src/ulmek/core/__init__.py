"""The computation: geometry, mesh, contact mechanics, solution and review numbers.

Knows nothing of the web, the database, the environment or logging. Units inside are
mm, N, MPa, tonne and s throughout.
"""
