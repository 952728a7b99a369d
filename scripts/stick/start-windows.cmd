@echo off
rem Starts the probe that fits this computer: with administrator rights, which health figures need, where they are
rem granted. It announces the computer with the stick's key; without one it asks for a line from the job's page.
setlocal
set arch=386
if "%PROCESSOR_ARCHITECTURE%"=="AMD64" set arch=amd64
if "%PROCESSOR_ARCHITEW6432%"=="AMD64" set arch=amd64
if "%PROCESSOR_ARCHITECTURE%"=="ARM64" set arch=arm64
set "probe=%~dp0nowthen-probe-windows-%arch%.exe"
if "%~1"=="as-administrator" goto start
"%probe%" elevate "%~f0" >nul 2>nul
if not errorlevel 1 exit /b 0
:start
if not exist "%~dp0nowthen-stick.json" goto ask
"%probe%" join --stick "%~dp0nowthen-stick.json"
goto end
:ask
set line=
set /p line=Address and code from the job's page (or just Enter to go on with the last job): 
"%probe%" join %line%
:end
pause
