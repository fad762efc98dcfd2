"""What is worked out from the shelf: laps beside their circuit, joined laps, guides, passes.  Command line and window both ask here.

The library keeps and hands out, the core works out; here both come together.  No Qt.
"""
