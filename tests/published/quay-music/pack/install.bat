@echo off
copy src\client\quay_music.lua scripts\client\
