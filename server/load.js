'use strict'
// Keeps the graphics busy: each picture takes as much work as fills about a thirtieth of a second, so that the computer
// can still be used beside it.
;(function () {
  const longest = 15 * 60 // s
  const canvas = document.querySelector('canvas')
  const rate = document.getElementById('rate')
  const says = document.getElementById('says')
  const press = document.getElementById('press')
  let gl, steps, time, size, running = 0, began = 0, counted = 0, since = 0, last = 0, work = 64, byGraphics = false, said = 0

  const vertex = 'attribute vec2 at; void main() { gl_Position = vec4(at, 0.0, 1.0); }'
  const fragment =
    'precision highp float; uniform float steps; uniform float time; uniform vec2 size;' +
    'void main() { vec2 z = gl_FragCoord.xy / size - 0.5; float sum = 0.0;' +
    'for (int i = 0; i < 4096; i++) { if (float(i) >= steps) break;' +
    'z = vec2(sin(z.x * 1.7 + cos(z.y * 2.3 + time)), cos(z.y * 1.3 - sin(z.x * 2.1))); sum += exp(-dot(z, z)); }' +
    'float v = fract(sum * 0.01); gl_FragColor = vec4(0.05 + 0.1 * v, 0.2 + 0.25 * v, 0.3 + 0.2 * v, 1.0); }'

  function begin() {
    gl = canvas.getContext('webgl', { antialias: false, powerPreference: 'high-performance' })
    if (!gl) return 'This browser cannot draw with the graphics (WebGL). Try another one.'
    const program = gl.createProgram()
    for (const [kind, text] of [[gl.VERTEX_SHADER, vertex], [gl.FRAGMENT_SHADER, fragment]]) {
      const shader = gl.createShader(kind)
      gl.shaderSource(shader, text)
      gl.compileShader(shader)
      gl.attachShader(program, shader)
    }
    gl.linkProgram(program)
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) return 'The graphics do not take this work. Try another browser.'
    gl.useProgram(program)
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer())
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW)
    const at = gl.getAttribLocation(program, 'at')
    gl.enableVertexAttribArray(at)
    gl.vertexAttribPointer(at, 2, gl.FLOAT, false, 0, 0)
    steps = gl.getUniformLocation(program, 'steps')
    time = gl.getUniformLocation(program, 'time')
    size = gl.getUniformLocation(program, 'size')
    return ''
  }

  function drawnBy() {
    const more = gl.getExtension('WEBGL_debug_renderer_info')
    return String((more && gl.getParameter(more.UNMASKED_RENDERER_WEBGL)) || gl.getParameter(gl.RENDERER) || '')
  }

  function draw(now) {
    if (!running) return
    if ((now - began) / 1000 >= longest) return end('It has ended by itself after 15 minutes.')
    const width = Math.max(1, innerWidth), height = Math.max(1, innerHeight)
    if (canvas.width !== width || canvas.height !== height) {
      canvas.width = width
      canvas.height = height
      gl.viewport(0, 0, width, height)
    }
    gl.uniform1f(steps, work)
    gl.uniform1f(time, now / 1000)
    gl.uniform2f(size, width, height)
    gl.drawArrays(gl.TRIANGLES, 0, 3)
    const took = now - last
    last = now
    if (took < 25) work = Math.min(4096, work * 1.1 + 1)
    else if (took > 45) work = Math.max(4, work * 0.8)
    counted++
    if (now - since >= 1000) {
      rate.textContent = Math.round((counted * 1000) / (now - since)) + ' frames per second'
      counted = 0
      since = now
    }
    // That the graphics work, the bench notes beside what the probe measures on this computer.
    if (byGraphics && now - said >= 5000) {
      said = now
      fetch('/load/seen', { method: 'POST' }).catch(() => {})
    }
    running = requestAnimationFrame(draw)
  }

  function start() {
    const wrong = begin()
    if (wrong) {
      says.textContent = wrong
      return
    }
    const by = drawnBy()
    byGraphics = by !== '' && !/swiftshader|llvmpipe|softpipe|software|basic render/i.test(by)
    says.textContent = byGraphics
      ? 'Drawn by ' + by + '. Leave this window in front.'
      : by
        ? 'Drawn by the processor (' + by + '): this browser does not use the graphics. Switch on its hardware acceleration, or try another one.'
        : 'What draws it, this browser does not say. Leave this window in front, and note yourself whether the graphics were at work.'
    began = since = last = performance.now()
    counted = 0
    press.textContent = 'Stop'
    running = requestAnimationFrame(draw)
  }

  function end(why) {
    cancelAnimationFrame(running)
    running = 0
    rate.textContent = ''
    says.textContent = why
    press.textContent = 'Start'
  }

  press.addEventListener('click', () => (running ? end('Stopped.') : start()))
  canvas.addEventListener('webglcontextlost', (e) => {
    e.preventDefault()
    if (running) end('The graphics have given up. That is worth a note: look at their cooling and their driver.')
  })
  document.addEventListener('visibilitychange', () => {
    if (running) since = last = performance.now()
  })
})()
