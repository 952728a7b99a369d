@echo off
rem Starts the probe that fits this computer. Without a line from the job's page it goes on with the job it had joined.
set arch=386
if "%PROCESSOR_ARCHITECTURE%"=="AMD64" set arch=amd64
if "%PROCESSOR_ARCHITEW6432%"=="AMD64" set arch=amd64
if "%PROCESSOR_ARCHITECTURE%"=="ARM64" set arch=arm64
set line=%*
if "%line%"=="" set /p line=Address and code from the job's page (or just Enter to go on with the last job): 
"%~dp0nowthen-probe-windows-%arch%.exe" join --state "%~dp0nowthen-probe-joined" %line%
pause
